"""Taking a delivery back: what only it released stays from now on."""

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.later import after_commit
from normant.common.problems import Problem
from normant.ledger.services.record import record

from ..models import Delivery


@transaction.atomic
def withdraw_delivery(delivery: Delivery, user: User, reason: str) -> None:
    """Raises Problem where it was withdrawn before. Plans of clearing that rest on it are stopped by a job."""
    row = Delivery.objects.select_for_update(no_key=True).get(pk=delivery.pk)
    if row.withdrawn_at:
        raise Problem(409, "Decided before", "this delivery is withdrawn")
    row.withdrawn_by, row.withdrawn_at, row.reason = user, timezone.now(), reason
    row.save(update_fields=["withdrawn_by", "withdrawn_at", "reason"])
    record(user.username, "withdraw delivery", row.project, file=row.file, why=reason)
    tell("delivery", str(row.pk))
    after_commit("clearings.sweep", once="clearings sweep")
