"""Cause groups: findings that one change explains, and the sentences that say so."""

import hashlib
from collections import defaultdict
from collections.abc import Collection, Iterable, Sequence

import msgspec

from ..base.wording import counted, on_seats, with_app
from ..catalogue.settings import Setting, catalogue
from ..seat.survey import Key
from ..standard.rule import Rule
from .judge import Verdict

SAME_SEATS = 0.8  # Jaccard index from which two groups are shown together
_SEVERITY = {"must": 4.0, "should": 2.0, "advise": 1.0}
_CHEAPNESS = {"none": 1.5, "app": 1.2, "sign-out": 1.0, "reboot": 0.8, "hands": 0.5}


class OpenFinding(msgspec.Struct, frozen=True):
    """An open finding: its id, its seat, its verdict."""

    id: int
    seat: str
    verdict: Verdict


class Group(msgspec.Struct, frozen=True):
    """Findings with one cause, in order of their seats; the verdict of one of them stands for all.

    `weight` orders a round: severity, seats, and how cheap it is to settle.
    """

    title: str
    verdict: Verdict
    findings: tuple[int, ...]
    seats: tuple[str, ...]
    weight: float


Wants = str | tuple[str, str]


def cause_key(verdict: Verdict) -> str:
    """What findings that one change explains have in common, in 16 letters: setting, application, reading and rule."""
    wants: Wants = verdict.norm.rule or (verdict.layer, verdict.norm.check)
    common = [verdict.setting, verdict.app, verdict.status, verdict.reading, wants]
    return hashlib.blake2b(msgspec.json.encode(common), digest_size=8).hexdigest()


def rule_of_cause(rule: Rule, layer: str) -> Wants:
    """The part of a cause's key that its rule makes: a condition as it is written; of a check with bounds, which are
    worked out anew on each seat, its layer and its kind."""
    return rule.values[0].text if rule.check == "must" else (layer, rule.check)


def groups(findings: Iterable[OpenFinding]) -> list[list[Group]]:
    """Groups by cause; those on nearly the same seats stand together. The most useful first."""
    by_cause: dict[str, list[OpenFinding]] = defaultdict(list)
    for finding in sorted(findings, key=lambda finding: finding.seat):
        by_cause[cause_key(finding.verdict)].append(finding)
    return together(
        group_of(alike[0].verdict, [finding.id for finding in alike], [finding.seat for finding in alike])
        for alike in by_cause.values()
    )


def together(made: Iterable[Group]) -> list[list[Group]]:
    """Groups on nearly the same seats side by side, the most useful first."""
    of_seats: list[tuple[frozenset[str], list[Group]]] = []
    for group in sorted(made, key=lambda group: (-group.weight, group.title)):
        seats = frozenset(group.seats)
        near = next((alike for others, alike in of_seats if jaccard(others, seats) >= SAME_SEATS), None)
        if near:
            near.append(group)
        else:
            of_seats.append((seats, [group]))
    return [alike for _, alike in of_seats]


def group_of(verdict: Verdict, findings: Sequence[int], seats: Sequence[str]) -> Group:
    """Findings of one cause, each with its seat, in order of these."""
    setting = catalogue()[verdict.setting]
    state = "cannot be read" if verdict.status == "unread" else f"is {verdict.reading_shown.split(', on ')[0]}"
    weight = weight_of(setting, verdict.severity, len(seats))
    if verdict.status == "unread":
        weight /= 4
    title = cause_title(verdict.key, state, seats, len(seats))
    return Group(title, verdict, tuple(findings), tuple(seats), weight)


def jaccard(first: Collection[str], two: Collection[str]) -> float:
    """Shared seats over all seats of both."""
    shared = len(frozenset(first) & frozenset(two))
    return shared / (len(first) + len(two) - shared)


def title_of(alike: Sequence[Group], open_of_seat: int = 0) -> str:
    """Return one title for groups that are shown together: that of the only one, or how many settings on which seats.

    `open_of_seat` counts all settings off norm of the only seat, where that is more: `6 of 7 settings off norm on a`.
    """
    if len(alike) == 1:
        return alike[0].title
    seats = sorted({seat for group in alike for seat in group.seats})
    share = f"{len(alike)} of {open_of_seat}" if open_of_seat > len(alike) else f"{len(alike)}"
    return f"{share} settings off norm on {on_seats(seats)}"


def cause_title(key: Key, state: str, seats: Sequence[str], count: int) -> str:
    """`Held back of Corrow is 1.5 GiB on three seats`; of one seat its name."""
    return f"{with_app(catalogue()[key[0]].title, key[1])} {state} on {on_seats(seats, count)}"


def weight_of(setting: Setting, severity: str, seats: int) -> float:
    """How useful it is to settle this: severity, seats, and how cheap it is."""
    return _SEVERITY[severity] * seats * _CHEAPNESS[setting.restart]


def house_sentence(*, left: int, back: int, decisions: int, since: str) -> str:
    """The sentence at the top of a round. `since` is a moment in words, such as `yesterday at 18:00`."""
    moved = f"Since {since}: {counted(left, 'seat')} went off norm, {back:,} came back."
    if not decisions:
        return f"{moved} No decisions needed."
    return f"{moved} {counted(decisions, 'decision')} needed."
