"""What a machine did during a run: columns of figures, taken at equal distances in time."""

from collections.abc import Iterable, Mapping, Sequence
from itertools import chain
from typing import Annotated

import msgspec
from msgspec import Meta

LIMIT_SAMPLES = 600  # of one run; a longer one is told at wider distances
LIMIT_COLUMNS = 24
# Columns; those with a colon name a GPU or an application behind it. Shares are of 1, the rest bytes (per second),
# megahertz, pages per second and degrees Celsius.
PROCESSOR, CLOCK, MEMORY, PAGE_INS = "processor", "clock", "memory", "page_ins"
TEMPERATURE, DISK_READ, DISK_WRITE = "temperature", "disk_read", "disk_write"
GPU, GPU_MEMORY, APP = "gpu:", "gpu_memory:", "app:"

Figure = Annotated[float, Meta(ge=0, le=1e18)]
Column = Annotated[tuple[Figure | None, ...], Meta(max_length=LIMIT_SAMPLES)]


class Samples(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """One run: seconds between samples, the columns, and what each figure was at rest, before the run.

    What the system does not tell has no column; a figure that failed once is None.
    """

    every: Annotated[float, Meta(gt=0, le=3600)]
    columns: Annotated[dict[Annotated[str, Meta(max_length=80)], Column], Meta(max_length=LIMIT_COLUMNS)]
    rest: Annotated[dict[Annotated[str, Meta(max_length=80)], Figure], Meta(max_length=LIMIT_COLUMNS)] = {}


def gathered(taken: Sequence[Mapping[str, float]], every: float, rest: Mapping[str, float]) -> Samples:
    """The columns of samples that were taken one after the other, thinned where there are too many."""
    step = -(-len(taken) // LIMIT_SAMPLES) or 1
    names = list(dict.fromkeys(chain.from_iterable(taken)))[:LIMIT_COLUMNS]
    columns = {name: tuple(map(_mean, _parts(taken, name, step))) for name in names}
    return Samples(every * step, columns, {name: figure for name, figure in rest.items() if name in columns})


def mean_of(samples: Samples, name: str) -> float | None:
    """The mean of a column; None where the system does not tell it."""
    return _mean(figure for figure in samples.columns.get(name, ()) if figure is not None)


def _parts(taken: Sequence[Mapping[str, float]], name: str, step: int) -> Iterable[list[float]]:
    for begin in range(0, len(taken), step):
        yield [sample[name] for sample in taken[begin : begin + step] if name in sample]


def _mean(figures: Iterable[float]) -> float | None:
    known = list(figures)
    return sum(known) / len(known) if known else None
