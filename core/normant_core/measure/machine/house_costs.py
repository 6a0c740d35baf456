"""What a house's sources are, and what its effects, proxies and renders ahead cost: two small documents."""

import csv
import tomllib
from collections.abc import Iterator, Mapping, Sequence
from itertools import islice
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from ...base.errors import DocumentError, Fault
from ...base.tables import check_columns, filled_rows
from ...base.toml_places import LIMIT_FAULTS, check_bounds
from .playing import Media
from .remedies import RemedyTerms

FORMAT = "normant-effects/1"
COLUMNS = ("target_url", "codec", "width", "height")
LIMIT_MEDIA = 20_000  # sources
WIDEST = 32_768  # pixels
Name = Annotated[str, Meta(min_length=1, max_length=80)]
Rate = Annotated[float, Meta(gt=0, le=1e6)]
Side = Annotated[int, Meta(ge=1, le=WIDEST)]
Bits = Annotated[float, Meta(gt=0, le=1e5)]


class ProxyForm(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What proxies of the house are, and their megabits per second."""

    codec: Name = "avc/8/420"
    width: Side = 1920
    height: Side = 1080
    mbits: Bits = 36


class AheadForm(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Megabits per second of stretches that are rendered ahead."""

    mbits: Bits = 220


class HouseCosts(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Frames per second of every effect by `cpu`, `gpu` or the model of a GPU; without a GPU form: `cpu` alone."""

    format: Literal["normant-effects/1"] = "normant-effects/1"
    effects: Annotated[
        dict[Name, Annotated[dict[Name, Rate], Meta(min_length=1, max_length=20)]], Meta(max_length=500)
    ] = {}
    proxy: ProxyForm = ProxyForm()
    ahead: AheadForm = AheadForm()

    @property
    def terms(self) -> RemedyTerms:
        """What remedies cost."""
        return RemedyTerms(self.proxy.mbits, self.ahead.mbits)

    @property
    def proxy_media(self) -> Media:
        """A proxy, as a source."""
        return Media(self.proxy.codec, self.proxy.width, self.proxy.height)


def read_house_costs(text: str, source: str) -> HouseCosts:
    """Raises DocumentError for a text that is no list of effects."""
    check_bounds(text, source)
    try:
        document = tomllib.loads(text)
        if "format" not in document:
            raise DocumentError(source, [Fault("the format is missing", expected=f'format = "{FORMAT}"')])
        return msgspec.convert(document, HouseCosts)
    except (tomllib.TOMLDecodeError, msgspec.ValidationError, RecursionError) as fault:
        expected = "[effects.NAME] with frames per second above 0 for cpu, gpu or a model; [proxy]; [ahead]"
        raise DocumentError(source, [Fault(str(fault), expected=expected)]) from fault


def read_media(text: str, source: str) -> dict[str, Media]:
    """Sources by their target, from CSV with the columns COLUMNS. Raises DocumentError, with the lines."""
    try:
        table = list(csv.reader(text.splitlines()))
    except csv.Error as fault:
        raise DocumentError(source, [Fault(f"this is no table: {fault}", expected="CSV")]) from fault
    names, rows = filled_rows(table)
    check_columns(names, COLUMNS, source)
    if len(rows) > LIMIT_MEDIA:
        raise DocumentError(source, [Fault(f"there are {len(rows):,} sources", expected=f"at most {LIMIT_MEDIA:,}")])
    faults = list(islice(_media_faults(names, rows), LIMIT_FAULTS))
    if faults:
        raise DocumentError(source, faults)
    cells = (dict(zip(names, row, strict=True)) for row in rows.values())
    return {row["target_url"]: Media(row["codec"], int(row["width"]), int(row["height"])) for row in cells}


def _media_faults(names: Sequence[str], rows: Mapping[int, Sequence[str]]) -> Iterator[Fault]:
    seen = set[str]()
    for line, row in rows.items():
        if len(row) != len(names):
            yield Fault("the row has not four cells", line=line, expected=", ".join(COLUMNS))
            continue
        cells = dict(zip(names, row, strict=True))
        yield from _cell_faults(cells, line)
        if cells["target_url"] in seen:
            yield Fault(f"{cells['target_url'][:80]} stands twice", line=line, expected="each source once")
        seen.add(cells["target_url"])


def _cell_faults(cells: Mapping[str, str], line: int) -> Iterator[Fault]:
    for name, most in (("target_url", 1000), ("codec", 80)):
        if not 0 < len(cells[name]) <= most:
            yield Fault(f"the {name} has {len(cells[name])} characters", line=line, expected=f"1 to {most}")
    for name in ("width", "height"):
        if not _is_side(cells[name]):
            yield Fault(f"the {name} is {cells[name][:20]!r}", line=line, expected=f"pixels, 1 to {WIDEST:,}")


def _is_side(text: str) -> bool:
    return text.isascii() and text.isdigit() and len(text) < 10 and 0 < int(text) <= WIDEST
