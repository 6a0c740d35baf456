"""Handing on what is wrong with a project: its list to the seat's own page, or an errand where hands are needed."""

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.problems import Problem
from normant.errands.models import Errand
from normant.errands.services.give_errands import give_errand
from normant.ledger.services.record import record
from normant_core.base.wording import counted
from normant_core.care.projects import DO
from normant_core.orders.projects import SeenTrouble
from normant_core.plan.errands import LONGEST_STEP, MOST_STEPS
from normant_core.plan.errands import Errand as CoreErrand

from ..models import Project

BY_HAND = ("missing", "misplaced")  # what somebody has to bring or to carry
MINUTES = 5  # for each


@transaction.atomic
def send_list(project: Project, user: User, *, sent: bool) -> None:
    """Its list stands on the seat's own page, or no more. Raises Problem for one that no seat has."""
    row = Project.objects.select_for_update(of=("self",)).select_related("seat").get(pk=project.pk)
    if row.seat is None:
        raise Problem(409, "No seat", "this project was uploaded: it has no seat")
    row.sent_by, row.sent_at = (user.username, timezone.now()) if sent else ("", None)
    row.save(update_fields=["sent_by", "sent_at"])
    record(user.username, "send project" if sent else "take project back", row.file, seat=row.seat.name)
    tell("project", str(row.pk))
    tell("seat", row.seat.name)


@transaction.atomic
def give_project_errand(project: Project, user: User) -> Errand:
    """For what is missing or lies in a wrong place. Raises Problem where nothing does, or no seat has it."""
    if project.seat is None:
        raise Problem(409, "No seat", "this project was uploaded: it has no seat")
    troubles = [trouble for trouble in project.core_seen.troubles if trouble.trouble in BY_HAND]
    if not troubles:
        raise Problem(409, "Nothing to carry", "this project has no missing or misplaced media")
    steps = tuple(_step(trouble)[:LONGEST_STEP] for trouble in troubles[:MOST_STEPS])
    does = f"Sort out the media of {project.file}: {counted(len(troubles), 'item')}"
    return give_errand(user, project.seat.name, CoreErrand(does, steps, MINUTES * len(steps), "sign-off"))


def _step(trouble: SeenTrouble) -> str:
    return f"{', '.join(trouble.paths)}: {trouble.why}; {DO[trouble.trouble]}."
