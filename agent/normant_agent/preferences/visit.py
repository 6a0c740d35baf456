"""One visit: the machine and every application's preference files, as a survey."""

from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path

from normant_core import VERSION
from normant_core.dialects.dialect import Dialect, spoken
from normant_core.dialects.preferences import read_files
from normant_core.seat.survey import AgentInfo, Survey, Unreadable

from ..hosts.host import Host
from .trial import contents, paths_of

NOTHING: Mapping[str, str] = {}


def take_survey(host: Host, seat: str, dialects: Sequence[Dialect], unfit: Mapping[str, str] = NOTHING) -> Survey:
    """Everything that can be read now; what cannot is told under `errors`, with the dialects that are `unfit`."""
    seen = host.see(dialects)
    readings, errors = list(seen.readings), list(seen.errors)
    errors += [Unreadable(f"dialect:{app}", why) for app, why in unfit.items()]
    for dialect in spoken(dialects, seen.facts.applications or ()):
        visit = read_files(dialect, contents(host.preference_root, dialect), seen.facts)
        readings += visit.readings
        errors += visit.errors
    return Survey(
        format="normant-survey/1",
        seat=seat,
        taken_at=host.now(),
        agent=AgentInfo(VERSION, host.name),
        facts=seen.facts,
        readings=tuple(readings),
        stores=seen.stores,
        activity=host.activity(),
        errors=tuple(errors),
    )


def preference_files(host: Host, dialects: Iterable[Dialect]) -> list[Path]:
    """Every file that a dialect names, as the installed application speaks it."""
    root = host.preference_root
    return [root / path for dialect in dialects for file in dialect.file for path in paths_of(root, file)]
