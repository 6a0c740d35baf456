"""Reading a timeline in a process of its own: the library goes as deep, and as large, as what it is given says."""

from pathlib import Path

import msgspec

from normant_core.measure.machine.laid import Laid, laid

from .bounded import UnreadError, answer_within, read_in_process
from .errors import TimelineError

LONGEST = 30  # seconds
_LEFT = 500  # of what could not be placed that are told


class _Answer(msgspec.Struct, frozen=True):
    timeline: Laid | None = None
    fault: str = ""


def read_aside(path: Path, *, seconds: float = LONGEST) -> Laid:
    """The timeline of a file, with what is decoded called by its target. Raises TimelineError."""
    try:
        answer = read_in_process(__name__, path, kind=_Answer, what="timeline", seconds=seconds)
    except UnreadError as why:
        raise TimelineError(str(why)) from why
    if answer.timeline is None:
        raise TimelineError(answer.fault)
    return answer.timeline


def _answer(path: Path) -> _Answer:
    from .reader import TimelineReader  # noqa: PLC0415 (heavy, and needed in the process aside only)

    try:
        made = TimelineReader().read(path)
    except TimelineError as why:
        return _Answer(fault=str(why).replace(f"{path}: ", "").replace(str(path), path.name))
    except MemoryError:
        return _Answer(fault="reading this timeline takes too much memory")
    more = [f"and {len(made.left) - _LEFT:,} more"] if len(made.left) > _LEFT else []
    return _Answer(laid(made.rate, made.end, made.placed, [*made.left[:_LEFT], *more]))


if __name__ == "__main__":
    answer_within(_answer)
