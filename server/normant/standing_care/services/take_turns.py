"""Turns of standing care: each begins as a plan of clearing, and goes on by itself where a person had agreed to it.

Each function may run twice, or after a crash, without harm: a turn stands once for its sentence and its hours, and is
written together with the plan that it began.
"""

from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from normant.clearings.models import Clearing
from normant.clearings.services.begin_clearing import begin_clearing
from normant.clearings.services.halt_clearing import give_up_clearing
from normant.clearings.services.sign_clearing import seen_of_clearing, sign_clearing
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.standards.current import current_judge
from normant_core.base.quantities import Dimension, show
from normant_core.standard.care import care_sentence, may_run, meaning, turn_at
from normant_core.standard.rule import Care

from ..agreed import agreed_turns, promised_by
from ..models import StoppedCare, Turn
from ..seats import CaredFor, cared_for
from ..wanted import wanted_of

UNDER_WAY = (Clearing.State.LOOKING, Clearing.State.RUNNING, Clearing.State.HALTED)


def begin_turns() -> None:
    """A turn of each sentence in force whose hours hold this moment, that nobody stopped, and that has a seat."""
    judge, now = current_judge(), timezone.localtime()
    stopped = set(StoppedCare.objects.values_list("name", flat=True))
    due = [
        (care, hours)
        for care in (judge.standard.care if judge else ())
        if care.text.name not in stopped and (hours := turn_at(care.text, now))
    ]
    had = set(Turn.objects.filter(opens__in=[opens for _, (opens, _) in due]).values_list("name", "opens"))
    due = [(care, hours) for care, hours in due if (care.text.name, hours[0]) not in had]
    if judge is None or not due:
        return
    cared = cared_for(judge.standard)
    for care, (opens, closes) in due:
        if cared[care.text.name].kinds_on:
            _begin_turn(care, cared[care.text.name], Turn(opens=opens, closes=closes))


@transaction.atomic
def _begin_turn(care: Care, cared: CaredFor, turn: Turn) -> None:
    lock("standing care", [care.text.name])
    if Turn.objects.filter(name=care.text.name, opens=turn.opens).exists():
        return  # another worker was faster
    turn.name, turn.meaning, turn.sentence = care.text.name, meaning(care), care_sentence(care.text)[:500]
    turn.problem = _in_the_way(care.text.name)
    if turn.problem:
        turn.decided_at = timezone.now()
    else:
        _plan(turn, care, cared)
    turn.save()
    tell("care", turn.name)


def _in_the_way(name: str) -> str:
    """Why nothing begins; what an earlier turn left for a person to sign gives way to the new one."""
    earlier = Turn.objects.filter(name=name).select_related("clearing")
    going = earlier.filter(clearing__state__in=UNDER_WAY).first()
    if going and going.clearing:
        return f"not started: its clean-up {going.clearing.pk} is {going.clearing.state}"
    for turn in earlier.filter(clearing__state=Clearing.State.PLANNED):
        if turn.clearing:
            give_up_clearing(turn.clearing)
    return ""


def _plan(turn: Turn, care: Care, cared: CaredFor) -> None:
    """Its seats are asked; a turn that finds nobody to ask says so."""
    try:
        with transaction.atomic():
            turn.clearing = begin_clearing(None, wanted_of(care, cared, f"Automatic clean-up: {care.text.name}"))
    except Problem as why:
        turn.problem, turn.decided_at = f"not started: {why.detail}"[:300], timezone.now()


def decide_turns() -> None:
    """Each plan that its seats have answered is signed where a person had agreed to as much, or waits for one."""
    for turn in Turn.objects.filter(decided_at=None, clearing__isnull=False):
        _decide(turn.pk, turn.name)


@transaction.atomic
def _decide(number: int, name: str) -> None:
    lock("standing care", [name])
    turn = Turn.objects.select_for_update(of=("self",)).select_related("clearing").get(pk=number)
    clearing = turn.clearing
    if turn.decided_at or clearing is None or clearing.state == Clearing.State.LOOKING:
        return
    if clearing.state == Clearing.State.PLANNED:
        promised = promised_by(turn)
        if not promised:
            give_up_clearing(clearing)
        elif why := _why_a_person(turn, promised):
            turn.problem = why
        else:
            sign_clearing(clearing, None, seen_of_clearing(clearing), turn.closes)
    turn.decided_at = timezone.now()
    turn.save(update_fields=["problem", "decided_at"])
    tell("care", turn.name)


def _why_a_person(turn: Turn, promised: int) -> str:
    """Why somebody has to look before anything goes; empty where nobody has."""
    before = [promised_by(earlier) for earlier in agreed_turns(turn.name, turn.meaning)]
    if not before:
        return "needs a signature: this automatic clean-up has not been approved yet"
    if not may_run(promised, before):
        now, then = (show(size, Dimension.BYTES, unit="GB") for size in (promised, max(before)))
        return f"needs a signature: {now} to delete, more than 50 % above the approved {then}"
    if StoppedCare.objects.filter(name=turn.name).exists() or turn.meaning not in _in_force():
        return "stopped or changed before the seats had answered"
    if turn.closes <= timezone.now():
        return "the time window ended before the seats had answered"
    return ""


def _in_force() -> set[str]:
    """What the sentences of the standard mean now."""
    judge = current_judge()
    return {meaning(care) for care in judge.standard.care} if judge else set()


def troubled_turns() -> list[Turn]:
    """The last turn of each sentence in force, where it did not do what it was to and nobody has seen to it since."""
    judge = current_judge()
    names = [care.text.name for care in judge.standard.care] if judge else []
    last = Turn.objects.filter(name__in=names).order_by("name", "-opens", "-id").distinct("name")
    open_plan = Q(clearing__state=Clearing.State.PLANNED) | Q(clearing=None)
    trouble = (open_plan & ~Q(problem="")) | Q(clearing__state=Clearing.State.HALTED)
    return list(Turn.objects.filter(trouble, pk__in=last.values("pk")).select_related("clearing"))
