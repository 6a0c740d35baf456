"""Rules for a draft of the standard: of what a trial has shown, and of what the memory planner proposes."""

from collections import Counter
from collections.abc import Mapping
from fractions import Fraction
from typing import Any

import msgspec

from normant.accounts.models import User
from normant.common.problems import Problem
from normant.findings.services.draft import keep_draft
from normant.seats.models import Seat
from normant.seats.views_of import survey_at
from normant.standards.models import Edition
from normant_core.base.errors import DocumentError
from normant_core.base.quantities import Dimension, exact
from normant_core.catalogue.settings import catalogue
from normant_core.measure.holding import HoldsFor
from normant_core.measure.question import Condition, Question
from normant_core.standard.edit import add_layer, edit_part

from .evidence import evidence_now
from .models import Trial

CLEAR = ("better", "worse")
LONGEST = 300  # characters of what a rule rests on
Fields = dict[str, Any]


def draft_of_trial(trial: Trial, user: User) -> int:
    """The number of a draft with a rule for what the trial has shown, where it was measured. Raises Problem."""
    if trial.state != Trial.State.ENDED or not trial.shown:
        raise Problem(409, "Nothing to rest on", "this trial has not finished")
    rules = [{**fields, "severity": "should", "evidence": "measured", **_because(trial)} for fields in _wanted(trial)]
    if not rules:
        raise Problem(409, "Nothing to rest on", "this trial shows no better value")
    classes = msgspec.convert(trial.holds_for, HoldsFor).classes if trial.holds_for else ()
    return _draft_with("Measured here", classes, rules, f"what trial {trial.pk} has shown", user)


def draft_attached(trial: Trial, user: User) -> int:
    """The number of a draft in which the rules that the trial has measured say that they rest on it. Raises Problem."""
    edition = _newest()
    spoken = [evidence for evidence in evidence_now() if evidence.trial == trial.pk and evidence.grade == "measured"]
    if not spoken:
        raise Problem(409, "No rule", "this trial supports no rule of the current standard")
    text, fields = edition.text, {"evidence": "measured", "rests_on": _because(trial)["rests_on"]}
    for evidence in spoken:
        text = edit_part(text, "rule", *evidence.at, fields)
    return keep_draft(text, base=edition.number, note=f"what trial {trial.pk} has measured", user=user).pk


def draft_of_pool(seat: Seat, app: str, pool: int, because: str, user: User) -> int:
    """The number of a draft with a preview pool (bytes, rounded to MiB) for the class of a seat. Raises Problem."""
    rule = {**_rule("memory.preview_pool", app, pool >> 20 << 20), "severity": "advise", "because": because}
    classes = (seat.hardware_class,) if seat.hardware_class else ()
    return _draft_with(
        "Planned memory", classes, [rule], f"memory as planned for {seat.hardware_class or seat.name}", user
    )


def _draft_with(name: str, classes: tuple[str, ...], rules: list[Fields], note: str, user: User) -> int:
    edition = _newest()
    where = " or ".join(f"seat.hardware_class == {_quoted(name)}" for name in classes if name)
    try:
        text = add_layer(edition.text, name, where, rules)
    except DocumentError as why:
        raise Problem(422, "No rule", str(why)) from why
    return keep_draft(text, base=edition.number, note=note, user=user).pk


def _newest() -> Edition:
    edition = Edition.objects.order_by("-number").first()
    if edition is None:
        raise Problem(409, "No standard yet", "publish a standard first")
    return edition


def _quoted(name: str) -> str:
    return f"'{name}'" if "'" not in name else f'"{name}"'


def _because(trial: Trial) -> Fields:
    place = msgspec.convert(trial.holds_for, HoldsFor).place if trial.holds_for else ""
    sentence = str((trial.shown or {}).get("sentence", ""))
    rests = f"trial {trial.pk}, {place}: {sentence}" if place else f"trial {trial.pk}: {sentence}"
    return {"because": trial.because, "rests_on": rests[:LONGEST]}


def _wanted(trial: Trial) -> list[Fields]:
    """Which values are to be, by what is shown."""
    question, shown = trial.core_question, trial.shown or {}
    if question.kind == "screening":
        return _of_factors(question, shown)
    best = str(shown.get("smallest", "")) if question.kind == "ladder" else _best(shown)
    condition = next((made for made in question.conditions if made.name == best), None)
    if condition is None:
        return []
    return _of_condition(condition) or _as_it_was(trial, question)


def _best(shown: Mapping[str, Any]) -> str:
    """The condition that beats most others; none where none is shown to beat any."""
    beats = Counter[str]()
    for row in shown.get("comparisons", ()):
        if row["outcome"] in CLEAR:
            beats[row["of"] if row["outcome"] == "better" else row["against"]] += 1
    return beats.most_common(1)[0][0] if beats else ""


def _of_factors(question: Question, shown: Mapping[str, Any]) -> list[Fields]:
    better = {row["factor"] for row in shown.get("effects", ()) if row["outcome"] == "better"}
    return [fields for made in question.conditions if made.name in better for fields in _of_condition(made)]


def _of_condition(condition: Condition) -> list[Fields]:
    return [
        _rule(wanted.setting, wanted.app, catalogue()[wanted.setting].parse(wanted.value)) for wanted in condition.sets
    ]


def _as_it_was(trial: Trial, question: Question) -> list[Fields]:
    """Nothing was set, and that was best: the value that the first seat had then."""
    keys = {(wanted.setting, wanted.app) for made in question.conditions for wanted in made.sets}
    row = trial.seats.select_related("seat").first()
    before = survey_at(row.seat, trial.created_at) if row else None
    values = before.values() if before else {}
    return [
        _rule(setting, app, values[setting, app])
        for setting, app in sorted(keys, key=lambda key: (key[0], key[1] or ""))
        if (setting, app) in values
    ]


def _rule(setting: str, app: str | None, value: Any) -> Fields:
    """A quantity with its unit, so that it is read back as the very same; a mere number as it is."""
    dimension = catalogue()[setting].dimension
    number = isinstance(value, int | float | Fraction) and not isinstance(value, bool)
    want = exact(value, dimension) if (number and not isinstance(value, int)) or dimension in _WITH_UNITS else value
    return {"setting": setting, **({"app": app} if app else {}), "want": want}


_WITH_UNITS = (Dimension.BYTES, Dimension.SECONDS)
