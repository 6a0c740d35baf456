"""What was measured of decoding: by seat, or where a seat was not, by others of its class."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from statistics import geometric_mean

from normant.seats.models import Seat
from normant_core.measure.machine.playing import DecodeRate

from ..models import Run

Key = tuple[str, str, int]  # codec, device, pixels of a frame
Figures = dict[Key, list[float]]


@dataclass(frozen=True, slots=True)
class SeatDecoding:
    """What is known of a seat; `by_class`: some of it was measured on others of its class."""

    rates: tuple[DecodeRate, ...]
    by_class: bool


def decoding_of(seats: Iterable[Seat]) -> Mapping[str, SeatDecoding]:
    """By the name of each seat."""
    own, of_class = _figures()
    none = Figures()
    return {
        seat.name: _of(own.get(seat.pk, none), of_class.get(seat.hardware_class, none) if seat.hardware_class else none)
        for seat in seats
    }


def _of(own: Figures, of_class: Figures) -> SeatDecoding:
    known = {**of_class, **own}
    by_size = sorted(known, key=lambda key: key[2])  # of one codec the largest frame counts: it comes last
    rates = tuple(
        DecodeRate(codec, device, geometric_mean(known[key]), key[2]) for key in by_size for codec, device, _ in [key]
    )
    return SeatDecoding(rates, any(key not in own for key in of_class))


def _figures() -> tuple[dict[int, Figures], dict[str, Figures]]:
    own = defaultdict[int, Figures](lambda: defaultdict(list))
    of_class = defaultdict[str, Figures](lambda: defaultdict(list))
    runs = Run.objects.that_count().filter(of__trial__clip__width__isnull=False, of__trial__clip__height__isnull=False)
    columns = ("of__seat", "of__seat__hardware_class", "of__trial__clip__codec", "condition", "figure")
    sides = ("of__trial__clip__width", "of__trial__clip__height")
    for seat, hardware, codec, device, figure, width, height in runs.values_list(*columns, *sides):
        own[seat][codec, device, width * height].append(figure)
        of_class[hardware][codec, device, width * height].append(figure)
    return own, of_class
