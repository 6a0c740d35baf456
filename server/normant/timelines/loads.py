"""A timeline on seats of the house: what each makes of it, and what would mend it."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import Any

import msgspec
import numpy as np

from normant.seats.models import Seat
from normant.seats.views_of import latest_surveys
from normant.trials.machine.decoded import SeatDecoding, decoding_of
from normant_core.measure.machine.house_costs import HouseCosts, read_house_costs
from normant_core.measure.machine.laid import Laid
from normant_core.measure.machine.playing import Media, Played, rates_of, without_gpu_form
from normant_core.measure.machine.remedies import remedies
from normant_core.measure.machine.timeline import Profile, Rates, SeatLoads
from normant_core.seat.facts import Facts

from .models import Costs, Timeline

REMEMBERED = 4  # timelines whose sums are kept between two questions
NOTHING_READ = SeatDecoding((), by_class=False)


@dataclass(frozen=True, slots=True)
class OnSeats:
    """A timeline with what the house knows."""

    played: Played
    profile: Profile
    costs: HouseCosts
    left: tuple[str, ...]

    def rates(self, facts: Facts, decoding: SeatDecoding, scale: Fraction = Fraction(1)) -> Rates:
        """What a seat does of it."""
        return rates_of(facts, decoding.rates, self.played.kinds(), self.costs.effects, scale)


def on_seats(timeline: Timeline) -> OnSeats:
    """Ready for its sums."""
    newest = Costs.objects.values_list("text", flat=True).first() or ""
    return _on_seats(bytes(timeline.body), msgspec.json.encode(timeline.media, order="deterministic"), newest)


@lru_cache(REMEMBERED)
def _on_seats(body: bytes, media: bytes, costs: str) -> OnSeats:
    laid = msgspec.json.decode(body, type=Laid)
    known, house = msgspec.json.decode(media, type=dict[str, Media]), HouseCosts()
    if costs:
        house = read_house_costs(costs, "effects")
    played = Played(laid.placed(), Fraction(laid.end), Fraction(laid.rate), known, house.proxy_media)
    return OnSeats(played, played.profile(), house, laid.left)


def seats_object(timeline: OnSeats) -> list[dict[str, Any]]:
    """How every seat of the house plays it, the one with most to spare first; those of which nothing is known last."""
    seats = list(Seat.objects.active().order_by("name"))
    surveys, decoding = latest_surveys(seat.pk for seat in seats), decoding_of(seats)
    alike, rows = dict[bytes, dict[str, Any]](), list[dict[str, Any]]()
    for seat in seats:
        if seat.pk in surveys:
            rates = timeline.rates(surveys[seat.pk].facts, decoding[seat.name])
            key = msgspec.json.encode(rates)  # seats of a kind have the same rates, and so the same sums
            if key not in alike:
                alike[key] = _sums(timeline, rates)
            rows.append({**_who(seat, decoding[seat.name]), **alike[key]})
    return sorted(rows, key=lambda row: (len(row["unmeasured"]), row["worst"], row["seat"]))


def _who(seat: Seat, decoding: SeatDecoding) -> dict[str, Any]:
    return {"seat": seat.name, "hardware_class": seat.hardware_class, "by_class": decoding.by_class}


def _sums(timeline: OnSeats, rates: Rates) -> dict[str, Any]:
    loads = timeline.played.on(timeline.profile, rates)
    over = loads.worst > 1
    worst = int(loads.worst.argmax()) if len(loads.worst) else 0
    limit = loads.devices[int(loads.loads[worst].argmax())] if loads.devices and over.any() else ""
    return {
        "plays": loads.plays,
        "worst": float(loads.worst.max(initial=0)),
        "limited_by": limit,
        "over_seconds": float(sum(_lengths(loads)[over])),
        "unmeasured": timeline.played.unmeasured(timeline.profile, rates),
    }


def _lengths(loads: SeatLoads) -> np.ndarray[Any, np.dtype[np.float64]]:
    edges = np.array([float(edge) for edge in loads.edges])
    return np.diff(edges)[: len(loads.worst)]


def seat_object(timeline: OnSeats, seat: Seat) -> dict[str, Any]:
    """Stretch by stretch, as columns, with the fewest changes that would make all of it play."""
    survey = latest_surveys([seat.pk]).get(seat.pk)
    facts = survey.facts if survey else Facts()
    decoding = decoding_of([seat]).get(seat.name, NOTHING_READ)
    loads = timeline.played.on(timeline.profile, timeline.rates(facts, decoding))
    ways = remedies(timeline.played, lambda scale: timeline.rates(facts, decoding, scale), timeline.costs.terms)
    return {
        **_who(seat, decoding),
        **_sums(timeline, timeline.rates(facts, decoding)),
        "edges": [round(float(edge), 3) for edge in loads.edges],
        "devices": list(loads.devices),
        "loads": np.round(loads.loads, 3).tolist(),
        "plays_at": np.round(loads.plays_at, 1).tolist(),
        "remedies": [_remedy_object(way) for way in ways],
    }


def _remedy_object(way: Any) -> dict[str, Any]:
    made: dict[str, Any] = msgspec.to_builtins(way)
    for step in made["steps"]:
        for name in ("start", "end"):
            step[name] = float(Fraction(step[name])) if step[name] else None
    return made


def sources_object(timeline: OnSeats, media: dict[str, Any]) -> list[dict[str, Any]]:
    """Every source with what it is, the most used first; `codec` is empty where nobody said."""
    seconds: dict[str, Fraction] = {}
    for part in timeline.played.placed:
        if part.work.kind == "decode":
            seconds[part.work.name] = seconds.get(part.work.name, Fraction(0)) + (part.end - part.start)
    rows = [
        {"target": target, **{k: media[target][k] for k in ("codec", "width", "height")}, "seconds": float(used)}
        for target, used in seconds.items()
    ]
    unknown = [{"target": t, "codec": "", "width": 0, "height": 0, "seconds": 0.0} for t in timeline.played.unknown]
    return [*unknown, *sorted(rows, key=lambda row: (-row["seconds"], row["target"]))]


def effects_object(timeline: OnSeats) -> Sequence[dict[str, Any]]:
    """Every effect that is used, with the devices that the house says draw it."""
    only_cpu = without_gpu_form(timeline.costs.effects, timeline.played.used)
    return [
        {"name": name, "devices": sorted(timeline.costs.effects.get(name, {})), "only_cpu": name in only_cpu}
        for name in timeline.played.used
    ]
