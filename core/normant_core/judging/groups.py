"""Cause groups: findings that one change explains, and the sentences that say so."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..base.wording import counted, number, of_app, on_seats, opening
from ..catalogue.settings import Setting, catalogue
from ..seat.survey import Key
from .judge import Verdict

SAME_SEATS = 0.8  # Jaccard index from which two groups are shown together
_SEVERITY = {"must": 4.0, "should": 2.0, "advise": 1.0}
_CHEAPNESS = {"none": 1.5, "app": 1.2, "sign-out": 1.0, "reboot": 0.8, "hands": 0.5}


@dataclass(frozen=True, slots=True)
class OpenFinding:
    """An open finding: its id, its seat, its verdict."""

    id: int
    seat: str
    verdict: Verdict


@dataclass(frozen=True, slots=True)
class Group:
    """Findings with one cause; `weight` orders a round: severity, seats, and how cheap it is to settle."""

    title: str
    findings: tuple[OpenFinding, ...]
    weight: float

    @property
    def seats(self) -> tuple[str, ...]:
        """The seats concerned, in order."""
        return tuple(sorted({finding.seat for finding in self.findings}))


def groups(findings: Iterable[OpenFinding]) -> list[list[Group]]:
    """Groups by setting, application, reading and rule; those on nearly the same seats stand together.

    The most useful first.
    """
    by_cause: dict[tuple[object, ...], list[OpenFinding]] = defaultdict(list)
    for finding in findings:
        v = finding.verdict
        wants = v.norm.rule or (v.layer, v.norm.check)
        by_cause[v.setting, v.app, v.status, v.reading, wants].append(finding)
    made = sorted((_group(group) for group in by_cause.values()), key=lambda g: (-g.weight, g.title))
    together: list[list[Group]] = []
    for group in made:
        near = next((t for t in together if jaccard(t[0].seats, group.seats) >= SAME_SEATS), None)
        if near:
            near.append(group)
        else:
            together.append([group])
    return together


def jaccard(first: Sequence[str], two: Sequence[str]) -> float:
    """Shared seats over all seats of both."""
    return len({*first} & {*two}) / len({*first} | {*two})


def title_of(together: Sequence[Group]) -> str:
    """One title for groups that stand together: that of the only one, or how many settings on which seats."""
    if len(together) == 1:
        return together[0].title
    seats = sorted({seat for group in together for seat in group.seats})
    return f"{opening(number(len(together)))} settings off norm on {on_seats(seats)}"


def _group(findings: list[OpenFinding]) -> Group:
    verdict = findings[0].verdict
    setting = catalogue()[verdict.setting]
    seats = sorted({finding.seat for finding in findings})
    state = "cannot be read" if verdict.status == "unread" else f"is {verdict.reading_shown.split(', on ')[0]}"
    weight = weight_of(setting, verdict.severity, len(seats))
    if verdict.status == "unread":
        weight /= 4
    return Group(cause_title(verdict.key, state, seats, len(seats)), tuple(findings), weight)


def cause_title(key: Key, state: str, seats: Sequence[str], count: int) -> str:
    """`Held back of Corrow is 1.5 GiB on three seats`; of one seat its name."""
    return f"{catalogue()[key[0]].title}{of_app(key[1])} {state} on {on_seats(seats, count)}"


def weight_of(setting: Setting, severity: str, seats: int) -> float:
    """How useful it is to settle this: severity, seats, and how cheap it is."""
    return _SEVERITY[severity] * seats * _CHEAPNESS[setting.restart]


def house_sentence(*, left: int, back: int, decisions: int, since: str) -> str:
    """The sentence at the top of a round. `since` is a moment in words, such as `yesterday at 18:00`."""
    returned = number(back) if back else "none"
    moved = f"Since {since}, {counted(left, 'seat')} left the house standard and {returned} came back."
    if not decisions:
        return f"{moved} Nothing wants a decision."
    return f"{moved} {opening(counted(decisions, 'thing wants', 'things want'))} a decision."
