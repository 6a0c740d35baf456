"""How the memory of a seat is cut: what its rules allow, what there is, and what would preview most."""

from collections.abc import Iterator
from fractions import Fraction
from typing import Annotated, Any

import msgspec
from django.db.models import Count, Min
from ninja import Schema
from pydantic import Field

from normant.common.problems import Problem
from normant.seats.models import Seat
from normant.seats.views_of import latest_views
from normant.standards.current import current_judge
from normant_core.base.errors import QuantityError
from normant_core.base.quantities import Dimension, parse_quantity, show
from normant_core.judging.judge import Verdict, View
from normant_core.measure.machine.memory import CutError, Wanted, cut, most_workers, read_frame

POOL, HELD, SPARED = "memory.preview_pool", "memory.held_back", "memory.reserved_cores"
FOREGROUND, PER_WORKER = 8 * 2**30, 7 * 2**29  # bytes, as long as nobody says otherwise
RESERVED, SHARE = 2, 0.4  # cores, and of the memory that a pool may have where no rule says
Size = Annotated[int, Field(ge=0, le=2**50)]


class CutIn(Schema):
    """What the memory has to do; what is null is as the seat has it, or as is usual."""

    app: Annotated[str, Field(max_length=64)] = ""
    frame: Annotated[str, Field(max_length=16)] = "3840x2160"
    bits: int = 16
    rate: Annotated[str, Field(max_length=16)] = "25"
    held_back: Size | None = None
    foreground: Size | None = None
    per_worker: Size | None = None
    reserved: Annotated[int, Field(ge=0, le=4096)] | None = None
    workers: Annotated[int, Field(ge=0, le=4096)] | None = None


def cut_of(seat: Seat, given: CutIn) -> dict[str, Any]:
    """The cut, with every share and where it comes from. Raises Problem where facts are missing."""
    view = next((view for _, view in latest_views([seat])), None)
    total, cores = (view.facts.memory.total, view.facts.cpu.cores) if view else (None, None)
    if view is None or total is None or cores is None:
        raise Problem(422, "Not known", f"{seat.name} has not reported its memory and cores")
    app = given.app or next((app or "" for setting, app in view.readings if setting == POOL), "")
    least, most, because = _bounds(_verdict(view, POOL, app), total)
    held_back = given.held_back if given.held_back is not None else _reading(view, HELD, app, round(total / 10))
    spared = given.reserved if given.reserved is not None else _reading(view, SPARED, app, RESERVED)
    wanted = Wanted(
        total,
        min(held_back, total),
        FOREGROUND if given.foreground is None else given.foreground,
        PER_WORKER if given.per_worker is None else given.per_worker,
        cores,
        spared,
        least,
        most,
        _frame(given),
        _rate(given.rate),
        given.workers,
    )
    made = cut(wanted)
    return {
        "seat": seat.name,
        "app": app,
        "apps": sorted({app for setting, app in view.readings if setting == POOL and app}),
        "frame": given.frame,
        "bits": given.bits,
        "rate": given.rate,
        "total": total,
        "cores": cores,
        "reserved": spared,
        "held_back": wanted.held_back,
        "foreground": wanted.foreground,
        "per_worker": wanted.per_worker,
        "pool_least": least,
        "pool_most": most,
        "pool_because": because,
        "pool_here": _reading(view, POOL, app, 0),
        "most_workers": most_workers(wanted),
        "classes": list(_classes()),
        "running": [application.id for application in view.facts.applications or () if application.running],
        "cut": msgspec.to_builtins(made),
        "pool_shown": show(made.pool, Dimension.BYTES),
    }


def _classes() -> Iterator[dict[str, Any]]:
    """Classes of the register with how many seats each has: the first that was heard speaks for all."""
    heard = Seat.objects.active().exclude(hardware_class="").filter(presence__seen_at__isnull=False)
    rows = heard.values("hardware_class").annotate(count=Count("pk"), first=Min("name")).order_by("hardware_class")
    for row in rows:
        yield {"name": row["hardware_class"], "count": row["count"], "first": row["first"]}


def _reading(view: View, setting: str, app: str, otherwise: int) -> int:
    value = view.readings.get((setting, app), view.readings.get((setting, None), otherwise))
    return int(value) if isinstance(value, int | float) and value < 2**60 else otherwise


def _verdict(view: View, setting: str, app: str) -> Verdict | None:
    judge = current_judge()
    if judge is None:
        return None
    return next((v for v in judge.verdicts(view, every=True) if v.key == (setting, app or None)), None)


def _bounds(verdict: Verdict | None, total: int) -> tuple[int, int, str]:
    """Least and most of a preview pool, and the words of the rule that says so."""
    if verdict is None:
        return 0, round(SHARE * total), "no rule applies: at most 40 % of the memory"
    values = [int(value) for value in verdict.norm.values if isinstance(value, int | float)]
    match verdict.norm.check, values:
        case "between", [least, most]:
            return least, most, verdict.norm.sentence
        case "at_least", [least]:
            return least, max(least, round(SHARE * total)), verdict.norm.sentence
        case "at_most", [most]:
            return 0, most, verdict.norm.sentence
        case "want", [wanted]:
            return wanted, wanted, verdict.norm.sentence
    return 0, round(SHARE * total), verdict.norm.sentence


def _frame(given: CutIn) -> Any:
    try:
        return read_frame(given.frame, given.bits)
    except CutError as why:
        raise Problem(422, "No frame size", str(why)) from why


def _rate(text: str) -> Fraction:
    try:
        rate = Fraction(parse_quantity(text, Dimension.RATE))
    except (QuantityError, ValueError, OverflowError) as why:
        raise Problem(422, "No rate", f"{text!r}: expected frames per second, such as 25") from why
    if not 0 < rate <= 1000:
        raise Problem(422, "No rate", f"{text!r}: expected frames per second above 0, at most 1000")
    return rate
