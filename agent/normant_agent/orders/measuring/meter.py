"""Orders that measure: a job, again and again, with changes that are made for it and put back after it.

The changes are those of any other order, each under a name of its own in the journal. That the machine is set for runs
is written down before the first of them, so that whatever dies meanwhile, the agent puts everything back as soon as it
runs again, also where the house is away or has given the trial up.
"""

import logging
from dataclasses import replace
from pathlib import Path

from normant_core.orders.kinds import Beside, Measure, Receipt, SetPreference, Settable
from normant_core.orders.samples import Samples

from ...errors import AgentError, Refused, Waiting
from ...hosts.host import Asked
from ...journal import Entry
from ..preference_files import put_file_back, set_preference
from ..system import put_system_back, set_system
from ..work import Work

log = logging.getLogger(__name__)
IDLE_SECONDS = 600
QUOTA = 256 * 1024**2  # bytes of reference clips that a seat keeps


def measure(work: Work, order: str, action: Measure) -> Receipt:
    """Every run, in its order. Raises Waiting while somebody is at work: it would measure their work as well."""
    put_trial_back(work)
    check_free(work)
    clip = _clip(work, action) if action.clip else None
    apps = tuple(dict.fromkeys(dialect.app for dialect in work.dialects))
    asked = Asked(action.job, clip, action.device, _mount(work, action.volume), apps)
    beside = _asked_beside(action.beside, asked) if action.beside else None
    figures, others, samples = list[float](), list[float](), list[Samples]()
    try:
        if why := changed(work, order, action.under):
            return work.close(Entry(order), Receipt(order, "accepted_as", message=why))
        work.step(order, "checking")
        for _ in range(action.runs):
            run = work.host.measure(asked)
            figures.append(run.figure)
            if run.samples:
                samples.append(run.samples)
            if beside:
                others.append(work.host.measure(beside).figure)
            check_free(work)
    finally:
        left = put_trial_back(work)
    receipt = Receipt(order, "done", message=left, measured=(*figures,), beside=(*others,), samples=(*samples,))
    return work.close(Entry(order), receipt)


def _asked_beside(beside: Beside, asked: Asked) -> Asked:
    """The same clip is decoded by the processor: that is what another program may count on."""
    device = "cpu" if beside.job == "decode" else ""
    return replace(asked, job=beside.job, device=device, beside=beside.app or "another")


def put_trial_back(work: Work, *, idle_seconds: int = IDLE_SECONDS) -> str:
    """Put back what was changed for runs, if anything was; what stays otherwise than it was, and why.

    Raises Waiting where it cannot be done at this moment: it is tried again, before anything else.
    """
    trial = work.journal.trial()
    if trial is None:
        return ""
    order, count = trial
    left = list[str]()
    for number in reversed(range(count)):
        left += _put_back(work.within(order), f"{order}-{number}", idle_seconds)
    work.journal.end_trial()
    _forget(work, order, count)
    return "; ".join(left)


def _clip(work: Work, action: Measure) -> Path:
    """The reference clip, verified; those that were used longest ago go where all of them become too many."""
    clip = work.fetched("clips", action.clip, size=action.clip_size)
    clip.touch()
    others = sorted((path for path in clip.parent.iterdir() if path != clip), key=lambda path: -path.stat().st_mtime_ns)
    room = QUOTA - clip.stat().st_size
    for path in others:
        room -= path.stat().st_size
        if room < 0:
            path.unlink()
    return clip


def _forget(work: Work, order: str, count: int) -> None:
    """Nothing of what was set for an order's runs leads anywhere any more."""
    for number in range(count):
        work.journal.forget(f"{order}-{number}")
        work.journal.forget(f"{order}-{number}-back")


def _mount(work: Work, volume: str) -> str:
    """Where a volume of this machine's own lies; empty where none is asked for. Raises Refused."""
    if not volume:
        return ""
    named = next((known for known in work.facts.volumes or () if known.id == volume), None)
    if named is None or not named.attached or named.kind == "network":
        raise Refused(f"this seat has no volume {volume} of its own")
    return named.mount


def check_free(work: Work, why: str = "to measure") -> None:
    """Raises Waiting while somebody is at work, or the machine is."""
    activity = work.host.activity()
    if activity.unsaved:
        raise Waiting(f"waiting: unsaved work, {why}")
    if activity.rendering:
        raise Waiting(f"waiting: the machine is rendering, {why}")
    if activity.idle_seconds is not None and activity.idle_seconds < IDLE_SECONDS:
        minutes = IDLE_SECONDS // 60
        raise Waiting(f"waiting until the machine has been idle for {minutes} min, {why}")


def changed(work: Work, order: str, changes: tuple[Settable, ...]) -> str:
    """Make the changes; why one of them is not what was asked for, empty where all are."""
    if not changes:
        return ""
    _forget(work, order, len(changes))  # copies of an earlier try, where its end was cut off
    work.journal.begin_trial(order, len(changes))
    for number, change in enumerate(changes):
        name = f"{order}-{number}"
        receipt = _set(work, order, name, change)
        if receipt.outcome != "done":
            return f"this condition cannot be set here: {receipt.message}"
    return ""


def _set(work: Work, order: str, name: str, change: Settable) -> Receipt:
    """Make one change, under a name that nobody but this agent knows: no receipt of it is handed in."""
    act = set_preference if isinstance(change, SetPreference) else set_system
    return act(work.within(order), name, change, None)  # type: ignore[arg-type] # each takes its own kind


def _put_back(work: Work, name: str, idle_seconds: int) -> list[str]:
    entry = work.journal.get(name)
    if entry is None:
        return []  # it had not come so far
    try:
        if entry.system:
            receipt = put_system_back(work, f"{name}-back", entry)
        elif entry.touched:
            began = work.journal.get(f"{name}-back") or (Entry(f"{name}-back", app=entry.app, reopen=entry.reopen))
            receipt = put_file_back(work, f"{name}-back", entry, entry=began, idle_seconds=idle_seconds)
        else:
            return _reopened(work, entry)
    except Refused as why:  # somebody else changed it meanwhile: theirs stays
        return [str(why)]
    except Waiting:
        raise
    except AgentError as why:
        log.error("a trial cannot be put back yet", extra={"change": name, "reason": str(why)})
        raise Waiting(f"what was set for a run cannot be put back yet: {why}") from why
    return [receipt.message] if receipt.message else []


def _reopened(work: Work, entry: Entry) -> list[str]:
    """Nothing was changed yet, but the application may have been closed for it."""
    if entry.reopen:
        work.host.reopen(entry.app)
    return []
