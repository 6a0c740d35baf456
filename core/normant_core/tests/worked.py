"""The worked documents of docs/examples, read once."""

from pathlib import Path

from normant_core.judging.judge import Judge, View
from normant_core.seat.facts import Seat
from normant_core.seat.survey import parse_survey
from normant_core.standard.parse import parse_standard

EXAMPLES = Path(__file__).resolve().parents[3] / "docs" / "examples"
STANDARD = (EXAMPLES / "house.standard.toml").read_text("utf-8")
SURVEY = (EXAMPLES / "pan-03.survey.json").read_bytes()
DIALECT = (EXAMPLES / "corrow.dialect.toml").read_text("utf-8")
PAN_03 = Seat("pan-03", "offline", "Pan House", "The Salt Ledger")


def judge(*rules: str, head: str = 'name = "Whole facility"') -> Judge:
    """A judge of one layer with these rules, each a TOML body."""
    body = "".join(f"\n[[layer.rule]]\n{rule}\n" for rule in rules)
    return judge_of(f'format = "normant-standard/1"\nname = "t"\n[[layer]]\n{head}\n{body}')


def judge_of(text: str) -> Judge:
    """A judge of a whole text."""
    return Judge(parse_standard(text))


def view() -> View:
    """pan-03 as the worked survey has it."""
    return View.of(parse_survey(SURVEY), PAN_03)
