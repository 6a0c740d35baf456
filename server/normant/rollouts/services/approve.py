"""A second person lets a rollout begin, where the house asks for one."""

from django.db import transaction

from normant.accounts.models import User
from normant.common.problems import Problem
from normant.errands.services.run_errands import release_held
from normant.ledger.services.record import record

from ..authority import PlansOfRollout
from ..models import Rollout
from .advance import advance_soon
from .news import tell_of_legs


@transaction.atomic
def approve(rollout: Rollout, user: User) -> None:
    """Let it begin. Raises Problem where it does not wait for that, or the same person planned it."""
    row = Rollout.objects.select_for_update(no_key=True).get(pk=rollout.pk)
    if row.state != Rollout.State.PROPOSED:
        raise Problem(409, "Nothing to approve", f"this rollout is {row.state}")
    if row.created_by_id == user.pk:
        raise Problem(403, "A second person", "a second person must approve this rollout")
    row.state, row.approved_by = Rollout.State.RUNNING, user
    row.save(update_fields=["state", "approved_by"])
    record(user.username, "approve rollout", f"rollout {row.pk}", plans=PlansOfRollout.read(row).digest)
    release_held(row.pk)
    advance_soon(row.pk)
    tell_of_legs(row)
