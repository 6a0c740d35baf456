"""Judging and parsing."""

import gzip
import re
from typing import Any

import msgspec
import orjson

from normant_core.catalogue.settings import Kind, catalogue
from normant_core.judging.judge import Judge, View
from normant_core.rules.evaluate import Scope, evaluate
from normant_core.seat.facts import Seat
from normant_core.seat.survey import Reading, Survey, decode, parse_survey
from normant_core.standard.parse import parse_standard

from .measure import EXAMPLES, REPOSITORY, Figure, paired

RULES = 120


def judge() -> Figure:
    """One seat against 120 rules, compiled, against the same rules by the plain evaluator."""
    text, survey = _rules()
    standard = parse_standard(text)
    judge_ = Judge(standard)
    seat = View.of(survey, Seat("pan-03", "offline", "Pan House", "The Salt Ledger"))
    scopes = [_scope(seat, rule.setting.key, rule.app) for rule in standard.rules]

    def plainly() -> None:
        for rule, scope in zip(standard.rules, scopes, strict=True):
            evaluate(rule.test, scope)

    assert len(standard.rules) == len(judge_.judge(seat)) == RULES
    compiled, plain = paired(lambda: judge_.judge(seat), plainly, times=200)
    return Figure.at_most("judge", compiled * 1e6, "us", "the plain evaluator", compiled / plain, 0.15)


def parse() -> Figure:
    """A 9 kB survey parsed and validated, against orjson.loads of the same bytes without validation."""
    raw = _survey_of(9000)
    ours, theirs = paired(lambda: decode(raw), lambda: orjson.loads(raw), times=400)
    return Figure.at_most("parse", ours * 1e6, "us", f"orjson.loads of {len(raw):,} bytes", ours / theirs, 1)


def load() -> Figure:
    """Script and style of the floor's first load, compressed."""
    dist = REPOSITORY / "web" / "dist"
    index = (dist / "index.html").read_text("utf-8")
    files = [dist / path.lstrip("/") for path in re.findall(r'(?:src|href)="(/assets/[^"]+\.(?:js|css))"', index)]
    size = sum(len(gzip.compress(path.read_bytes(), 6)) for path in files) / 1000
    whole = sum(path.stat().st_size for path in files) / 1000
    return Figure(
        "load", size, "kB", f"the {whole:.0f} kB before compression", size / whole, "at most 250 kB", size <= 250
    )


def _rules() -> tuple[str, Survey]:
    """A hundred and twenty rules, each the norm of one reading of the survey that comes with them."""
    known = [s for s in catalogue().settings.values() if s.kind in _SAMPLES][: RULES // 2]
    rules, readings = [], []
    for number, setting in enumerate([*known, *known]):
        app = ("corrow", "plinthe")[number >= len(known)]
        value, check = _SAMPLES[setting.kind]
        if setting.values:
            value, check = setting.values[0], f'one_of = ["{setting.values[0]}", "{setting.values[-1]}"]'
        when = "when = \"memory.total >= 16 GiB and seat.role == 'offline'\"\n" if number % 3 == 0 else ""
        rules.append(f'[[layer.rule]]\nsetting = "{setting.key}"\napp = "{app}"\n{check}\n{when}')
        readings.append(Reading(setting.key, value, app))
    head = 'format = "normant-standard/1"\nname = "bench"\n[[layer]]\nname = "all"\n'
    survey = parse_survey((EXAMPLES / "pan-03.survey.json").read_bytes())
    return head + "\n".join(rules), msgspec.structs.replace(survey, readings=tuple(readings))


# A reading and a rule for each kind of setting.
_SAMPLES: dict[Kind, tuple[Any, str]] = {
    Kind.BYTES: (2**32, 'at_least = "max(4 GiB, 10 % of memory.total)"'),
    Kind.SECONDS: (600, 'at_most = "12 min"'),
    Kind.FRACTION: ("1/2", 'at_most = "1/2"'),
    Kind.INT: (4, "between = [1, 9]"),
    Kind.BOOL: (True, "want = false"),
    Kind.ENUM: ("", ""),
    Kind.TEXT: ("gpu0", 'must = "any(gpus, enabled and id == reading)"'),
    Kind.PATH: ("/fast/cache", 'must = "volume.attached and not volume.system and volume.free >= 120 GB"'),
}


def _scope(seat: View, setting: str, app: str | None) -> Scope:
    key = next((key for key in seat.readings if key[0] == setting and app in (None, key[1])), (setting, app))
    reading = seat.readings.get(key)
    volume = seat.facts.volume_of(str(reading))
    return Scope(seat.facts, seat.seat, seat.readings, key[1], seat.facts.application(key[1]), reading, volume)


def _survey_of(size: int) -> bytes:
    """The worked survey, compact, with readings added until it is that large."""
    document = orjson.loads((EXAMPLES / "pan-03.survey.json").read_bytes())
    readings = document["readings"]
    while len(orjson.dumps(document)) < size:
        document["readings"] = document["readings"] + readings
    return orjson.dumps(document)
