"""A sentence of standing care as a plan of clearing that is asked for."""

from normant.clearings.services.begin_clearing import Wanted
from normant_core.standard.rule import Care

from .seats import CaredFor


def wanted_of(care: Care, cared: CaredFor, title: str) -> Wanted:
    """On its seats, of the kinds of which it decides there."""
    return Wanted(
        sorted(cared.kinds_on),
        care.text.kinds,
        care.text.unused_days,
        free=care.free,
        title=title,
        most=care.most,
        kinds_on=cared.kinds_on,
        is_strict=True,
    )
