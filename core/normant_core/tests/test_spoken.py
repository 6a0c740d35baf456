"""Expressions in words: what rules want, and what of them fails."""

import re
from pathlib import Path
from typing import Any
from unittest import TestCase

from normant_core.base.quantities import Value
from normant_core.catalogue.settings import catalogue
from normant_core.judging.judge import View
from normant_core.judging.levels import in_words
from normant_core.rules.checker import _APP, _FACTS, _SEAT, _STORE, _VOLUME, Checker
from normant_core.rules.parser import parse
from normant_core.rules.phrases import phrasebook
from normant_core.rules.spoken import Speaker
from normant_core.seat.facts import Audio, Facts, Gpu, ListOf, Record, Volume
from normant_core.standard.parse import parse_standard
from normant_core.standard.sentences import layer_sentences

from .worked import PAN_03, judge

REPOSITORY = Path(__file__).resolve().parents[3]
STANDARDS = (
    "docs/examples/house.standard.toml",
    "demo/brinehouse/house.standard.toml",
    "core/normant_core/standard/starter.standard.toml",
)
CODE = re.compile(r"[()=<>_\'\[\]]|\\b\\w+\\.\\w+\\b".replace("\\'", ""))
VALUES = {
    "max(4 GiB, 10 % of memory.total)": "4 GiB or 10 % of installed memory, whichever is more",
    "min(2 GiB, memory.total / 8, 5 GiB)": "the smallest of 2 GiB, installed memory divided by 8 and 5 GiB",
    "memory.total - 4 GiB": "installed memory less 4 GiB",
}
CONDITIONS = {
    "seat.role == 'offline' and memory.total >= 32 GiB": "the seat's role is offline and installed memory is at least 32 GiB",
    "seat.room in ['Pan', 'Kiln']": "the seat's room is Pan or Kiln",
    "not (seat.role == 'comp' or cpu.cores < 8)": "the seat's role is not comp and the number of processor cores is at least 8",
    "setting('playback.raw_scale') < 1": "Raw decoding scale is less than 1",
    "any(gpus, enabled and memory >= 8 GiB)": "one of its GPUs is enabled and has at least 8 GiB of memory",
    "not any(gpus, driver.version < '31')": "none of its GPUs has driver older than 31",
    "all(displays, width >= 1920)": "each of its displays has at least 1920 pixels of width",
    "count(gpus, enabled) >= 2": "the number of its GPUs each of which is enabled is at least 2",
    "first(gpus, enabled).memory > 8 GiB": "the memory of the first of its GPUs that is enabled is more than 8 GiB",
}
SOURCE_CACHE = "store.source_cache.path"
WANTED = {
    (SOURCE_CACHE, "volume.attached and not volume.system and volume.free >= 120 GB"): (
        "is on a volume that is attached, not the system's, with at least 120 GB free"
    ),
    (SOURCE_CACHE, "volume.free >= 1 TB"): "is on a volume with at least 1 TB free",
    ("engine.effects", "reading == 'cpu' or any(gpus, enabled and reading in interfaces)"): (
        "is cpu, or one of its GPUs is enabled and offers it"
    ),
    ("audio.input", "reading not in audio.inputs"): "is not one of its sound inputs",
}
GIB = 2**30
HOME = Volume("v0", "/home", kind="hdd", free=41 * 10**9, capacity=10**12, system=True, attached=True, removable=False)
GPUS = (
    Gpu("gpu0", enabled=False, interfaces=("hadrel",)),
    Gpu("gpu1", enabled=True, interfaces=("opencl", "vulcan")),
)
FAILS: list[tuple[str, str, Value, Facts, str]] = [
    (
        SOURCE_CACHE,
        "volume.attached and not volume.system and volume.free >= 120 GB",
        "/home/cache",
        Facts(volumes=(HOME,)),
        "Source cache is on v0, which is the system's and has 41 GB free;"
        " house standard: a volume that is not the system's, with at least 120 GB free",
    ),
    (
        "engine.effects",
        "reading == 'cpu' or any(gpus, enabled and reading in interfaces)",
        "hadrel",
        Facts(gpus=GPUS),
        "Effects engine is hadrel, house standard: cpu",
    ),
    (
        "engine.effects",
        "reading != 'cpu' and any(gpus, enabled and reading in interfaces)",
        "hadrel",
        Facts(gpus=GPUS),
        "Effects engine is hadrel; gpu0 is switched off, house standard: one of its GPUs that is enabled and offers it",
    ),
    (
        "audio.input",
        "reading in audio.inputs",
        "phone",
        Facts(audio=Audio(("desk",))),
        "Audio input is phone, house standard: one of its sound inputs",
    ),
]


def spoken(text: str, setting: str | None = None) -> tuple[Speaker, Any]:
    known = catalogue()[setting] if setting else None
    return Speaker(known), Checker(known).check(parse(text))[0]


def leaves(record: Record, lead: str = "") -> list[str]:
    fields = list[str]()
    for name, kind in record.fields.items():
        fields += leaves(kind, f"{lead}{name}.") if isinstance(kind, Record) else [f"{lead}{name}"]
    return fields


class Book(TestCase):
    def test_every_fact_has_its_phrase(self) -> None:
        lists = {name: kind.item for name, kind in _FACTS.fields.items() if isinstance(kind, ListOf)}
        records = {"facts": _FACTS, "seat": _SEAT, "volume": _VOLUME, "app": _APP, "store": _STORE}
        records |= {phrasebook()["facts"][name].of: item for name, item in lists.items() if isinstance(item, Record)}
        for name, record in records.items():
            with self.subTest(name):
                self.assertEqual(set(leaves(record)) - set(phrasebook()[name]), set())
                self.assertEqual(set(phrasebook()[name]) - set(leaves(record)), set())

    def test_nothing_of_the_code_is_left_in_a_sentence(self) -> None:
        for path in STANDARDS:
            for layer in layer_sentences(parse_standard((REPOSITORY / path).read_text("utf-8"))):
                for sentence in (layer.applies, *(rule.sentence for rule in layer.rules)):
                    with self.subTest(sentence):
                        self.assertNotRegex(sentence, r"[()=<>_\[\]]|\b[a-z]+\.[a-z]+\b|\bnull\b|volume\.")


class Spoken(TestCase):
    def test_values(self) -> None:
        for text, words in VALUES.items():
            with self.subTest(text):
                speaker, node = spoken(text, "memory.held_back")
                self.assertEqual(speaker.value(node), words)

    def test_conditions(self) -> None:
        for text, words in CONDITIONS.items():
            with self.subTest(text):
                speaker, node = spoken(text, "memory.held_back")
                self.assertEqual(speaker.condition(node), words)

    def test_what_is_wanted_of_a_reading(self) -> None:
        for (setting, text), words in WANTED.items():
            with self.subTest(text):
                speaker, node = spoken(text, setting)
                self.assertEqual(speaker.wants(node), words)

    def test_a_finding_says_only_what_failed_and_what_is_there(self) -> None:
        for setting, must, reading, facts, words in FAILS:
            with self.subTest(must):
                rule = f'setting = "{setting}"\nmust = "{must}"'
                verdict = judge(rule).explain(View(PAN_03, facts, {(setting, "corrow"): reading}), setting, "corrow")
                assert verdict
                self.assertEqual((verdict.status, in_words(verdict)), ("off-norm", words))
