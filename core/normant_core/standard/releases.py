"""Which builds of drivers, systems and applications a house approves, tolerates and blocks."""

import datetime as dt
from collections.abc import Iterator, Mapping, Sequence

import msgspec

from ..base.errors import DocumentError, Fault, QuantityError
from ..base.quantities import Version
from .rule import Path, ReleaseText, Rule
from .soundness import Make


class Releases:
    """The list as it is on a day (None: whatever the day)."""

    def __init__(self, listed: Sequence[ReleaseText], day: dt.date | None) -> None:
        self._listed = [release for release in listed if release.counts(day)]

    def of(self, setting: str, app: str | None, *standings: str) -> list[str]:
        """The versions with one of these standings, those of the first standing first, the newest first of each."""
        own = [release for release in self._listed if (release.setting, release.app) == (setting, app)]
        own.sort(key=lambda release: Version.parse(release.version), reverse=True)
        return [release.version for standing in standings for release in own if release.standing == standing]

    def ladder(self, setting: str, app: str | None) -> tuple[Version, ...]:
        """The approved versions, the oldest first: how far behind a seat is counts these."""
        return tuple(Version.parse(version) for version in reversed(self.of(setting, app, "approved")))

    def blocked(self) -> list[tuple[str, str | None]]:
        """Of what there are blocked builds."""
        blocked = [(release.setting, release.app) for release in self._listed if release.standing == "blocked"]
        return list(dict.fromkeys(blocked))

    def why(self, setting: str, app: str | None) -> str:
        """Why builds of this are blocked."""
        own = [r for r in self._listed if (r.setting, r.app, r.standing) == (setting, app, "blocked")]
        reasons = [f"{release.version}: {release.because}" for release in own if release.because]
        return "; ".join(reasons)


def last_day(listed: Sequence[ReleaseText], rule: Rule) -> dt.date | None:
    """The day after which a rule's list is empty: every reading is off norm then. None where one counts for ever."""
    takes = ("approved",) if rule.text.listed == "approved" else ("approved", "tolerated")
    own = [r for r in listed if (r.setting, r.app) == (rule.setting.key, rule.app) and r.standing in takes]
    days = [release.until for release in own if release.until]
    return max(days) if own and len(days) == len(own) else None


COLUMNS = ("setting", "app", "version", "standing", "since", "until", "because")


def read_releases(rows: Sequence[Sequence[str]]) -> list[ReleaseText]:
    """Releases from the rows of a table whose first names its columns. Raises DocumentError with every fault by row."""
    names = [cell.strip().lower() for cell in rows[0]] if rows else []
    if missing := [name for name in ("setting", "version", "standing") if name not in names]:
        raise DocumentError("releases", [Fault(f"the table has no column {missing[0]!r}", expected=", ".join(COLUMNS))])
    filled = {number: cells for number, row in enumerate(rows[1:], 2) if (cells := _cells(names, row))}
    return _converted(filled)


def _converted(filled: Mapping[int, dict[str, str]]) -> list[ReleaseText]:
    releases, faults = list[ReleaseText](), list[Fault]()
    for number, cells in filled.items():
        try:
            releases.append(msgspec.convert(cells, ReleaseText, strict=False))
        except msgspec.ValidationError as fault:
            faults.append(Fault(str(fault), line=number, expected="a release as the standard lists it"))
    if faults:
        raise DocumentError("releases", faults)
    return releases


def _cells(names: Sequence[str], row: Sequence[str]) -> dict[str, str]:
    """What a row says in the columns that are known."""
    cells = zip(names, map(str.strip, row), strict=False)
    return {name: cell for name, cell in cells if name in COLUMNS and cell}


def _faults_of(release: ReleaseText, path: Path, make: Make) -> Iterator[Fault]:
    """What is wrong with one entry, whatever the others say."""
    if (release.setting == "app.version") != (release.app is not None):
        yield make(path, f"a release of {release.setting}", "app for app.version, and for nothing else")
    if release.since and release.until and release.until < release.since:
        yield make((*path, "until"), "it ends before it begins", "a day after since")
    try:
        Version.parse(release.version)
    except QuantityError as wrong:
        yield make((*path, "version"), str(wrong), "a version such as 31.4.2")


def release_faults(listed: Sequence[ReleaseText], make: Make) -> Iterator[Fault]:
    """What is wrong with entries of the list."""
    seen = set[tuple[object, ...]]()
    for number, release in enumerate(listed):
        path: Path = ("release", number)
        yield from _faults_of(release, path, make)
        same = (release.setting, release.app, release.version, release.since, release.until)
        if same in seen:
            yield make(path, f"{release.version} stands twice for the same days", "one entry for each build")
        seen.add(same)
