"""Keeping a dialect."""

from django.db import transaction

from normant.ledger.services.record import record
from normant_core.dialect import parse_dialect

from ..models import Dialect


@transaction.atomic
def keep_dialect(text: str, actor: str) -> Dialect:
    """Add or replace an application's dialect. Raises DocumentError."""
    parsed = parse_dialect(text)
    kept, _ = Dialect.objects.update_or_create(app=parsed.app, defaults={"text": text})
    record(actor, "keep dialect", parsed.app, versions=parsed.versions)
    return kept
