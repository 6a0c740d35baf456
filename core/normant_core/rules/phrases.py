"""The phrasebook: what each fact is called, and how it is said of the thing that has it."""

import tomllib
from functools import cache
from importlib import resources

import msgspec


class Phrase(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """How one field is said; phrasebook.toml tells what each form is for."""

    noun: str = ""
    yes: str = ""
    no: str = ""
    has: str = ""
    kind: str = ""
    holds: str = ""
    each: tuple[str, str] = ("", "")
    of: str = ""


@cache
def phrasebook() -> dict[str, dict[str, Phrase]]:
    """By record (facts, seat, volume, gpu, ...) and dotted field."""
    text = resources.files(__package__).joinpath("phrasebook.toml").read_text("utf-8")
    return msgspec.convert(tomllib.loads(text), dict[str, dict[str, Phrase]])
