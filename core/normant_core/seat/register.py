"""The seat register as a table: rows in, what each would change, and every fault by its row and column."""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from ..base.errors import Fault
from ..catalogue.settings import nearest
from .facts import ID_PATTERN, Facts, Volume

COLUMNS = ("seat", "role", "room", "production", "hardware_class", "tags")
ROLES = ("offline", "assist", "comp", "finishing", "ingest", "delivery")
LIMIT_ROWS = 20_000
_LONGEST = {"seat": 64, "role": 40, "room": 80, "production": 80, "hardware_class": 80, "tags": 400}
_GIB = 2**30


@dataclass(frozen=True, slots=True)
class Line:
    """One seat of the table: its row number, and the columns that the table has."""

    row: int
    seat: str
    columns: Mapping[str, str] = field(default_factory=dict)

    @property
    def tags(self) -> list[str] | None:
        """The tags, without doubles; None where the table has no such column."""
        return tags_of(self.columns["tags"]) if "tags" in self.columns else None


def tags_of(text: str) -> list[str]:
    """Tags as written in one cell: parted by commas or semicolons."""
    return list(dict.fromkeys(tag for part in re.split(r"[,;]", text) if (tag := part.strip())))


def read_register(table: Sequence[Sequence[str]]) -> tuple[list[Line], list[Fault]]:
    """The lines of a table whose first row names the columns, and every fault; `line` is the row, from 1."""
    heading, *rows = [list(map(str.strip, row)) for row in table] or [[]]
    if not any(heading):
        return [], [Fault("the table is empty", line=1, column=1, expected=f"a row of names: {', '.join(COLUMNS)}")]
    names = [name.lower().replace(" ", "_") for name in heading]
    if faults := [*_heading_faults(names), *_too_many(table)]:
        return [], faults
    return _lines(names, rows)


def _lines(names: list[str], rows: list[list[str]]) -> tuple[list[Line], list[Fault]]:
    """The lines of the rows below the names, and what is wrong with them; rows without a word are left out."""
    seen = dict[str, int]()
    filled = [(number, row) for number, row in enumerate(rows, 2) if any(row)]
    faults = [fault for number, row in filled for fault in _row_faults(number, row, names, seen)]
    return [_line(number, row, names) for number, row in filled], faults


def _too_many(rows: Sequence[object]) -> list[Fault]:
    message = f"the table has {len(rows):,} rows"
    many = Fault(message, line=len(rows), expected=f"at most {LIMIT_ROWS:,}")
    return [many] if len(rows) > LIMIT_ROWS else []


def _line(number: int, row: list[str], names: list[str]) -> Line:
    cells = {name: cell for name, cell in zip(names, row, strict=False) if name}
    return Line(number, cells.pop("seat", ""), cells)


def _heading_faults(names: list[str]) -> Iterator[Fault]:
    for place, name in enumerate(names, 1):
        if name not in ("", *COLUMNS):
            near = nearest(name, COLUMNS) or COLUMNS
            yield Fault(f"unknown column {name!r}", line=1, column=place, expected=", ".join(near))
        elif name in names[: place - 1]:
            yield Fault(f"the column {name!r} is listed twice", line=1, column=place, expected="each column once")
    if "seat" not in names:
        yield Fault("there is no column 'seat'", line=1, column=1, expected="a column named seat")


def _row_faults(number: int, row: list[str], names: list[str], seen: dict[str, int]) -> Iterator[Fault]:
    yield from _cell_faults(number, row, names)
    place = names.index("seat")
    seat = row[place] if place < len(row) else ""
    if wrong := _wrong_seat(seat, seen):
        yield Fault(wrong[0], path="seat", line=number, column=place + 1, expected=wrong[1])
    else:
        seen[seat] = number


def _cell_faults(number: int, row: list[str], names: list[str]) -> Iterator[Fault]:
    if any(row[len(names) :]):
        expected = f"{len(names)}, as many as the first row"
        yield Fault(f"the row has {len(row)} cells", line=number, column=len(names) + 1, expected=expected)
    for place, (name, cell) in enumerate(zip(names, row, strict=False), 1):
        if name and (wrong := _wrong_cell(name, cell)):
            yield Fault(wrong[0], path=name, line=number, column=place, expected=wrong[1])


def _wrong_cell(name: str, cell: str) -> tuple[str, str] | None:
    """What is wrong with a cell of a column, and what was expected; None where nothing is."""
    if len(cell) > _LONGEST[name]:
        return f"the cell has {len(cell)} characters", f"at most {_LONGEST[name]}"
    if any(ord(c) < 32 for c in cell):
        return "the cell holds control characters", "text on one line"
    if name == "role" and cell not in ("", *ROLES):
        return f"unknown role {cell!r}", "one of " + ", ".join(nearest(cell, ROLES) or ROLES)
    return None


def _wrong_seat(name: str, seen: Mapping[str, int]) -> tuple[str, str] | None:
    if not name:
        return "the row names no seat", "a name such as pan-03"
    if not re.match(ID_PATTERN, name):
        return f"{name!r} is not a valid seat name", "letters, digits, . _ : and -, a letter or digit first"
    return (f"{name} stands in row {seen[name]} already", "each seat once") if name in seen else None


def likeness(facts: Facts) -> tuple[object, ...]:
    """What makes two machines of one hardware class: working GPUs, memory, cores, kinds of volumes of their own."""
    gpus = tuple(sorted(gpu.model or "" for gpu in facts.enabled_gpus()))
    memory = round((facts.memory.total or 0) / _GIB)
    return gpus, memory, facts.cpu.cores or 0, tuple(sorted(volume.kind or "" for volume in _own_volumes(facts)))


def _own_volumes(facts: Facts) -> list[Volume]:
    return [volume for volume in facts.volumes or () if volume.kind != "network" and not volume.removable]


def proposed_classes(seats: Mapping[str, tuple[Facts, str]]) -> dict[str, str]:
    """A hardware class for each seat, by likeness: what most that are like it are called, else what it is.

    `seats` gives facts and the class of today ("" for none) by name.
    """
    groups = dict[tuple[object, ...], list[str]]()
    for name, (facts, _) in seats.items():
        groups.setdefault(likeness(facts), []).append(name)
    proposed = dict[str, str]()
    for alike in groups.values():
        named = [seats[name][1] for name in alike if seats[name][1]]
        title = max(named, key=named.count) if named else _title(seats[alike[0]][0])
        proposed.update(dict.fromkeys(alike, title))
    return proposed


def _title(facts: Facts) -> str:
    """What a machine is: its memory, and its GPUs but those of the processor, where it has others."""
    enabled = facts.enabled_gpus()
    others = [gpu for gpu in enabled if gpu.kind != "integrated"]
    memory = [f"{round(facts.memory.total / _GIB)} GiB"] if facts.memory.total else []
    names = [gpu.model or "GPU" for gpu in others or enabled]
    return ", ".join(dict.fromkeys([*memory, *names]))[:80] or "unknown"
