"""Assigning a delivery to a production and an application."""

from django.db import transaction

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant_core.care.deliveries import name_key

from ..models import Delivery


@transaction.atomic
def assign_delivery(delivery: Delivery, user: User, production: str, project_app: str) -> None:
    """Set whose project it is, before it is signed.

    One that was signed without a production, by an earlier version, has to be signed again. Raises Problem where it is
    signed or withdrawn, where the name says nothing, or where the same file is there for that project.
    """
    lock("delivery")
    row = Delivery.objects.select_for_update(no_key=True).get(pk=delivery.pk)
    if not name_key(production):
        raise Problem(422, "No production", f"{production!r} needs a letter or a digit")
    if row.withdrawn_at or (row.signed_at and row.production and row.project_app):
        raise Problem(409, "Decided before", f"this delivery is {row.state}")
    key = {"production": production, "project": row.project, "project_app": project_app, "digest": row.digest}
    if Delivery.objects.standing().filter(**key).exclude(pk=row.pk).exists():
        raise Problem(409, "There already", f"this file is already a delivery of {row.project} ({production})")
    row.production, row.project_app, row.signed_by, row.signed_at = production, project_app, None, None
    row.save(update_fields=["production", "project_app", "signed_by", "signed_at"])
    record(user.username, "assign delivery", row.project, production=production, app=project_app, file=row.file)
    tell("delivery", str(row.pk))
