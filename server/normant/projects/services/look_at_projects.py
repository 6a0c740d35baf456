"""Having seats read their projects, at once or each night, and keeping what they saw."""

import datetime as dt
from collections.abc import Iterable

import msgspec
from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.orders.services.issue import issue_order
from normant.seats.models import Seat
from normant.seats.views_of import latest_survey
from normant_core.orders.kinds import CheckProjects, Receipt, parse_order
from normant_core.orders.projects import SeenProject

from ..models import NightlyLook, Project

FOLDER = "store.projects.path"
NIGHT = dt.time(1), dt.time(6)  # by the house's clock
MOST_OF_A_SEAT = 200  # projects that are kept of it: those seen longest ago go


def apps_with_projects(seat: Seat) -> list[str]:
    """The applications of a seat whose preferences name a folder of projects."""
    survey = latest_survey(seat)
    readings = survey.readings if survey else ()
    return sorted({reading.app for reading in readings if reading.setting == FOLDER and reading.app and reading.value})


@transaction.atomic
def look_at_projects(seat: Seat, user: User, wanted: CheckProjects) -> Order:
    """Ask a seat; what was asked before and waits is asked no more. Raises Problem where it names no such folder."""
    if wanted.app not in apps_with_projects(seat):
        raise Problem(422, "No projects", f"no application {wanted.app} of {seat.name} has a project folder")
    order = _ask(seat, wanted)
    record(user.username, "look at projects", seat.name, app=wanted.app, file=wanted.file, order=str(order.pk))
    return order


def _ask(seat: Seat, wanted: CheckProjects) -> Order:
    lock("leg", [seat.name])
    Order.objects.waiting().filter(seat=seat, kind="check_projects").update(withdrawn_at=timezone.now())
    return issue_order(seat, wanted)


def look_each_night() -> None:
    """Once a night the seats of each production that is looked at so; a second call of the same night asks nobody."""
    now = timezone.localtime()
    if not NIGHT[0] <= now.time() < NIGHT[1]:
        return
    for number in NightlyLook.objects.exclude(asked_on=now.date()).values_list("pk", flat=True):
        _look_tonight(number, now.date())


@transaction.atomic
def _look_tonight(number: int, day: dt.date) -> None:
    look = NightlyLook.objects.filter(pk=number).first()
    if look is None:
        return
    seats = list(Seat.objects.active().filter(production=look.production).order_by("name"))
    lock("leg", [seat.name for seat in seats])
    if not NightlyLook.objects.filter(pk=number).exclude(asked_on=day).update(asked_on=day):
        return  # another worker was faster
    asked = list[str]()
    for seat in seats:
        for app in apps_with_projects(seat):
            issue_order(seat, CheckProjects(app, storage=look.storage))
            asked.append(seat.name)
    record("server", "look at projects", look.production, seats=asked)


def projects_seen(order: Order, receipt: Receipt) -> None:
    """Keep what a seat saw; who calls holds its lock."""
    action = parse_order(bytes(order.body)).action
    assert isinstance(action, CheckProjects)
    if receipt.outcome == "done":
        _keep(order.seat, action.app, receipt.projects)
    tell("project", order.seat.name)
    tell("seat", order.seat.name)


def _keep(seat: Seat, app: str, projects: Iterable[SeenProject]) -> None:
    for seen in projects:
        about = {"seen": msgspec.to_builtins(seen), "seen_at": timezone.now(), "production": seat.production or ""}
        Project.objects.update_or_create(seat=seat, app=app, file=seen.file, defaults=about)
    late = Project.objects.filter(seat=seat).values_list("pk", flat=True)[MOST_OF_A_SEAT:]
    Project.objects.filter(pk__in=list(late)).delete()
