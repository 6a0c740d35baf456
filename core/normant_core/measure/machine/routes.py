"""Which device decodes a codec on a seat, and why every device before it was passed over."""

from collections import defaultdict
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from statistics import geometric_mean

from ...base.wording import counted
from ...seat.facts import Application, Facts, Gpu, Volume

CPU = "cpu"
Rates = Mapping[tuple[str, str], float]  # frames per second that were measured, by codec and device


@dataclass(frozen=True, slots=True)
class Candidate:
    """A device that might decode; `why` it was passed over, empty for the one that does."""

    device: str
    why: str
    rate: float | None = None


@dataclass(frozen=True, slots=True)
class Route:
    """Where a codec of an application goes on a seat; `plays` is None where the rate was not measured."""

    codec: str
    app: str | None
    device: str
    rate: float | None
    plays: bool | None
    candidates: tuple[Candidate, ...]

    @property
    def sentence(self) -> str:
        """`hevc/10/422 is decoded by cpu: gpu0 does not list it, gpu1 is off in firmware`"""
        passed = [f"{candidate.device} {candidate.why}" for candidate in self.candidates if candidate.why]
        return f"{self.codec} decoded by {self.device}" + (f": {', '.join(passed)}" if passed else "")


def codecs_of(facts: Iterable[Facts]) -> list[str]:
    """Every codec that a GPU of these seats decodes, whether it is enabled or not."""
    return sorted({codec for seat in facts for gpu in seat.gpus or () for codec in gpu.decode or ()})


@dataclass(frozen=True, slots=True)
class RouteAsked:
    """What is asked of a seat's devices.

    `configured` is what the application is set to: `auto`, `cpu`, or a GPU's id. `limited` are editions that decode on
    the processor alone. `needed` is the rate of the production in frames per second, 0 where none is asked for.
    """

    codec: str
    app: str | None = None
    configured: str = "auto"
    limited: Collection[str] = ()
    needed: float = 0


def route(facts: Facts, asked: RouteAsked, rates: Rates | None = None) -> Route:
    """The first device of those that are asked for that lists the codec, else the processor."""
    known, candidates = rates or {}, list[Candidate]()
    for device, why in _in_turn(facts, asked):
        candidates.append(Candidate(device, why, known.get((asked.codec, device))))
        if not why:
            break
    last = candidates[-1]
    plays = None if last.rate is None or not asked.needed else last.rate >= asked.needed
    return Route(asked.codec, asked.app, last.device, last.rate, plays, tuple(candidates))


def _in_turn(facts: Facts, asked: RouteAsked) -> Iterator[tuple[str, str]]:
    """The devices that an application looks at, in the order of the survey, and why it passes over each."""
    gpus = facts.gpus or ()
    for gpu in gpus:
        if asked.configured in ("auto", gpu.id):
            yield gpu.id, _why_not(gpu, asked.codec, facts.application(asked.app), asked.limited)
    if asked.configured not in ("auto", CPU, *(gpu.id for gpu in gpus)):
        yield asked.configured, "is not in this seat"
    yield CPU, ""


def _why_not(gpu: Gpu, codec: str, application: Application | None, limited: Collection[str]) -> str:
    if gpu.enabled is False:
        return "is off in firmware"
    if gpu.driver.version is None:
        return "has no driver"
    if application and application.edition in limited:
        return f"is not used by the {application.edition} edition"
    if gpu.decode is None:
        return "does not report its codecs"
    return "" if codec in gpu.decode else "does not list it"


@dataclass(frozen=True, slots=True)
class SeatRoutes:
    """The routes of a seat, one for each codec, all seats in the same order of codecs."""

    seat: str
    hardware_class: str
    routes: tuple[Route, ...]


@dataclass(frozen=True, slots=True)
class GroupRoute:
    """A codec on a group of seats: `rate` is the geometric mean of the seats in `measured_on`, None without any."""

    route: Route
    rate: float | None
    plays: bool | None
    measured_on: tuple[str, ...]


def similar_seats(seats: Iterable[SeatRoutes]) -> list[list[SeatRoutes]]:
    """Group the seats of a hardware class whose codecs all go to the same devices for the same reasons.

    The groups are sorted by class, the largest first within a class; seats keep their order.
    """
    groups = defaultdict[tuple[str, tuple[str, ...]], list[SeatRoutes]](list)
    for seat in seats:
        groups[seat.hardware_class, tuple(route.sentence for route in seat.routes)].append(seat)
    return sorted(groups.values(), key=lambda group: (group[0].hardware_class, -len(group)))


def group_routes(group: Sequence[SeatRoutes], needed: float) -> list[GroupRoute]:
    """Return the routes that the seats of a group share, with the rates measured on any of them."""
    shared = list[GroupRoute]()
    for number, route in enumerate(group[0].routes):
        rates = {seat.seat: rate for seat in group if (rate := seat.routes[number].rate)}
        rate = geometric_mean(rates.values()) if rates else None
        plays = None if rate is None or not needed else rate >= needed
        shared.append(GroupRoute(route, rate, plays, tuple(rates)))
    return shared


def routes_words(routes: Collection[GroupRoute], needed: float) -> str:
    """`5 of 25 combinations are too slow for 25 fps, 12 not measured`"""
    slow = sum(route.plays is False for route in routes)
    missing = sum(route.rate is None for route in routes)
    are = "is" if slow == 1 else "are"
    words = f"{slow} of {counted(len(routes), 'combination')} {are} too slow for {needed:g} fps"
    return words + (f", {missing} not measured" if missing else "")


def space_of_proxies(seconds: float, bits_per_second: float) -> int:
    """Bytes that proxies of so much material need."""
    return round(seconds * bits_per_second / 8)


@dataclass(frozen=True, slots=True)
class RemedyAsked:
    """Frames per second that are needed, seconds of material, bits per second of proxies."""

    needed: float
    seconds: float
    proxy_bits: float


def remedy(facts: Facts, made: Route, asked: RemedyAsked) -> str:
    """The cheapest thing that may hold where a codec falls to what is too slow: first what costs nothing.

    Another device that lists the codec, a driver, an edition, a switch in the firmware; else proxies, with the volume
    that has room for them and their bytes.
    """
    listing = [gpu for gpu in facts.gpus or () if made.codec in (gpu.decode or ())]
    known = {candidate.device for candidate in made.candidates}
    # What the application was not set to look at comes first: that is a preference.
    idle = sorted(listing, key=lambda gpu: gpu.id in known or gpu.enabled is False)
    return _let_it(idle[0], made.codec, known) if idle else _proxies(facts, asked)


def _let_it(gpu: Gpu, codec: str, known: Collection[str]) -> str:
    """What would have a GPU decode a codec that it lists; `known` are those that the application looks at."""
    if gpu.enabled is False:
        return f"switch {gpu.id} on in the firmware: it lists {codec}"
    if gpu.id not in known:
        return f"let {gpu.id} decode: it lists {codec}"
    if gpu.driver.version is None:
        return f"install a driver for {gpu.id}: it lists {codec}"
    return f"an edition that uses {gpu.id}: it lists {codec}"


def _proxies(facts: Facts, asked: RemedyAsked) -> str:
    size = space_of_proxies(asked.seconds, asked.proxy_bits)
    amount = f", {size / 1e9:,.1f} GB of them" if size else ""
    roomy = [volume for volume in facts.volumes or () if _is_fit(volume) and (volume.free or 0) >= size]
    if not roomy:
        return f"proxies{amount}: no volume of its own has room for them"
    fastest = max(roomy, key=lambda volume: volume.read_rate or 0)
    return f"proxies on {fastest.id}{amount}"


def _is_fit(volume: Volume) -> bool:
    """For what has to be read fast, and to stay."""
    return volume.attached is True and not volume.system and not volume.removable and volume.kind != "network"
