"""Keeping a dialect."""

from django.db import transaction

from normant.common.events import tell
from normant.common.later import after_commit
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant_core.dialects.dialect import parse_dialect

from ..models import Dialect, DialectVersion


@transaction.atomic
def keep_dialect(text: str, actor: str, *, base: int | None = None) -> Dialect:
    """Add or replace an application's dialect; every text is kept. `base` is the version that the text began from.

    Raises DocumentError with every fault, Problem where somebody was faster.
    """
    parsed = parse_dialect(text)
    lock("dialect", [parsed.app])
    held = Dialect.objects.filter(app=parsed.app).first()
    newest = held.number if held else 0
    if base is not None and base != newest:
        message = f"version {newest} was saved by somebody else; yours is based on version {base}: review and try again"
        raise Problem(409, "Somebody was faster", message)
    if held and held.text == text:
        return held
    fresh = {"text": text, "number": newest + 1, "signature": None, "refused": ""}
    dialect, _ = Dialect.objects.update_or_create(app=parsed.app, defaults=fresh)
    DialectVersion.objects.create(app=parsed.app, number=dialect.number, text=text, kept_by=actor)
    record(actor, "keep dialect", parsed.app, versions=parsed.versions, number=dialect.number)
    after_commit("orders.sign", once="sign")  # without a worker's signature no agent takes it
    tell("dialect", parsed.app)
    return dialect
