"""Codecs by seats: which device decodes, at which measured rate, and why not another."""

from collections import defaultdict
from collections.abc import Mapping
from statistics import geometric_mean
from typing import Any

from normant.seats.models import Seat
from normant.seats.views_of import latest_views
from normant_core.judging.judge import View
from normant_core.measure.machine.routes import RemedyAsked, Route, RouteAsked, codecs_of, remedy, route

from ..models import Clip, Run

DECODE = "engine.decode"
Rates = Mapping[tuple[str, str], float]


def routes_now(needed: float, hours: float = 0, mbits: float = 36) -> dict[str, Any]:
    """Every seat that was read, with the route of each codec that GPUs or reference clips of the house have.

    Where that is too slow, the cheapest remedy for so many hours of material, with proxies of `mbits`.
    """
    views = list(latest_views(Seat.objects.active()))
    codecs = sorted({*codecs_of(view.facts for _, view in views), *Clip.objects.values_list("codec", flat=True)})
    measured, asked = _measured(), RemedyAsked(needed, hours * 3600, mbits * 1e6)
    rows = [
        {
            "seat": seat.name,
            "hardware_class": seat.hardware_class,
            "routes": [
                _route_object(view, route(view.facts, _asked(view, codec, needed), measured.get(seat.pk, {})), asked)
                for codec in codecs
            ],
        }
        for seat, view in views
    ]
    return {"codecs": codecs, "needed": needed, "seats": rows}


def _asked(view: View, codec: str, needed: float) -> RouteAsked:
    """As the first application that says which device decodes has it; else as any would."""
    app, configured = next(
        ((app, str(value)) for (setting, app), value in view.readings.items() if setting == DECODE), (None, "auto")
    )
    return RouteAsked(codec, app, configured or "auto", needed=needed)


def _measured() -> dict[int, Rates]:
    """By seat: frames per second of each codec on each device, of all runs that decoded a clip of it."""
    figures = defaultdict[int, dict[tuple[str, str], list[float]]](lambda: defaultdict(list))
    runs = Run.objects.that_count().filter(of__trial__clip__isnull=False)
    for seat, codec, device, figure in runs.values_list("of__seat", "of__trial__clip__codec", "condition", "figure"):
        figures[seat][codec, device].append(figure)
    return {seat: {key: geometric_mean(made) for key, made in known.items()} for seat, known in figures.items()}


def _route_object(view: View, made: Route, asked: RemedyAsked) -> dict[str, Any]:
    return {
        "codec": made.codec,
        "device": made.device,
        "rate": made.rate,
        "plays": made.plays,
        "sentence": made.sentence,
        "remedy": remedy(view.facts, made, asked) if made.plays is False else "",
    }
