"""Codecs by seats: which device decodes, at which measured rate, and why not another."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import replace
from statistics import geometric_mean
from typing import Any

from normant.seats.models import Seat
from normant.seats.views_of import latest_views
from normant_core.judging.judge import View
from normant_core.measure.machine.routes import (
    GroupRoute,
    RemedyAsked,
    Route,
    RouteAsked,
    SeatRoutes,
    codecs_of,
    group_routes,
    remedy,
    route,
    routes_words,
    similar_seats,
)
from normant_core.seat.facts import Facts

from ..models import Clip, Run

DECODE = "engine.decode"
Rates = Mapping[tuple[str, str], float]


def routes_now(needed: float, hours: float = 0, mbits: float = 36) -> dict[str, Any]:
    """Return the route of each codec of the house's GPUs and reference clips, by seat and by group of similar seats.

    A route that is too slow has the cheapest remedy for `hours` of material, with proxies of `mbits`.
    """
    views = list(latest_views(Seat.objects.active()))
    codecs = sorted({*codecs_of(view.facts for _, view in views), *Clip.objects.values_list("codec", flat=True)})
    measured, asked = _measured(), RemedyAsked(needed, hours * 3600, mbits * 1e6)
    facts = {seat.name: view.facts for seat, view in views}
    seats = [
        SeatRoutes(
            seat.name,
            seat.hardware_class,
            tuple(route(view.facts, _asked(view, codec, needed), measured.get(seat.pk, {})) for codec in codecs),
        )
        for seat, view in views
    ]
    groups = [(group, group_routes(group, needed)) for group in similar_seats(seats)]
    return {
        "codecs": codecs,
        "needed": needed,
        "sentence": routes_words([shared for _, routes in groups for shared in routes], needed) if groups else "",
        "groups": [_group_object(group, routes, facts[group[0].seat], asked) for group, routes in groups],
        "seats": [
            {
                "seat": row.seat,
                "hardware_class": row.hardware_class,
                "routes": [_route_object(facts[row.seat], made, asked) for made in row.routes],
            }
            for row in seats
        ],
    }


def _group_object(
    group: list[SeatRoutes], routes: list[GroupRoute], facts: Facts, asked: RemedyAsked
) -> dict[str, Any]:
    return {
        "hardware_class": group[0].hardware_class,
        "seats": [row.seat for row in group],
        "routes": [
            {
                **_route_object(facts, replace(shared.route, rate=shared.rate, plays=shared.plays), asked),
                "measured_on": list(shared.measured_on),
            }
            for shared in routes
        ],
    }


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


def _route_object(facts: Facts, made: Route, asked: RemedyAsked) -> dict[str, Any]:
    return {
        "codec": made.codec,
        "device": made.device,
        "rate": made.rate,
        "plays": made.plays,
        "sentence": made.sentence,
        "remedy": remedy(facts, made, asked) if made.plays is False else "",
    }
