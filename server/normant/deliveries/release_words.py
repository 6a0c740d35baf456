"""What a signature under a delivery comes to, in words."""

from collections.abc import Collection, Sequence

from normant_core.base.quantities import Dimension, show
from normant_core.base.wording import counted, listed
from normant_core.care.clearing import kind_words
from normant_core.care.deliveries import name_key

from .models import Delivery
from .released import ReleasedStore


def release_sentence(stores: Sequence[ReleasedStore]) -> str:
    """`Releases 31 GB of renders and backups on 2 seats. Nothing is deleted until a clean-up plan is signed.`"""
    if not stores:
        return "No renders or backups of this project are known now. Later ones will be released as well."
    kinds = listed(kind_words(kind) for kind in sorted({store.kind for store in stores}, reverse=True))
    seats = sorted({store.seat for store in stores})
    where = seats[0] if len(seats) == 1 else counted(len(seats), "seat")
    size = show(sum(store.size for store in stores), Dimension.BYTES, unit="GB")
    return f"Releases {size} of {kinds} on {where}. Nothing is deleted until a clean-up plan is signed."


def release_warnings(row: Delivery, known: Collection[str]) -> list[str]:
    """What a person should know first; `known` are the productions that have a project of this name."""
    warnings = list[str]()
    if not row.production:
        warnings.append("The production is unknown: assign it before you sign.")
    if not row.project_app:
        warnings.append("The application is unknown: assign it before you sign.")
    if row.inspection_id is None:
        warnings.append("This file has not been inspected.")
    elif flaws := flaws_of(row):
        warnings.append(f"The inspection found {counted(flaws, 'flaw')}.")
    if {*known} - {name_key(row.production)}:
        same = f"Another production has a project {row.project} as well"
        warnings.append(f"{same}: files whose path does not tell the production stay.")
    return warnings


def flaws_of(row: Delivery) -> int | None:
    """How many flaws the inspection beside it found; None where there is none."""
    inspected = ((row.inspection.receipt if row.inspection else None) or {}).get("inspected")
    return len(inspected.get("flaws", ())) + inspected.get("unshown", 0) if inspected else None
