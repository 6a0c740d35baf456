"""What stands in the way of a plan on a seat, as its last survey and the house know it: told before anything begins."""

import datetime as dt
from dataclasses import dataclass

from ..base.quantities import Dimension, Version, show
from ..base.wording import app_title, listed
from ..seat.facts import Volume
from ..seat.survey import Activity, Survey
from .plan import SeatPlan

NEEDED = "0.3.0"  # the version of the agent from which it knows every kind of order
SYSTEM_WANTS = 200 * 10**6  # bytes on the system's volume for copies and journals
IDLE = dt.timedelta(minutes=10)  # after which an application may be closed without asking


@dataclass(frozen=True, slots=True)
class Known:
    """What the house knows of a seat: its last survey, whether it is heard, what else is at work, or booked, there."""

    survey: Survey | None
    heard: bool
    at_work: str = ""
    booked: str = ""


def preflight(plan: SeatPlan, known: Known) -> list[str]:
    """Each thing that the plan will wait for or fail on, in a few words; nothing where it can begin."""
    obstacles = ["" if known.heard else "not responding: starts when the seat returns", known.at_work, known.booked]
    if known.survey:
        obstacles += [_agent(known.survey), *_in_use(plan, known.survey), _battery(plan, known.survey)]
        obstacles += map(_room, known.survey.facts.volumes or ())
    return [word for word in obstacles if word]


def _agent(survey: Survey) -> str:
    old = not survey.agent.is_at_least(Version.parse(NEEDED))
    return f"its agent is {survey.agent.version} and may not support every order: update it to {NEEDED}" if old else ""


def _in_use(plan: SeatPlan, survey: Survey) -> list[str]:
    if not plan.closes and not plan.restarts:
        return []
    name = listed(map(app_title, plan.closes)) or "the machine"
    why = _busy(survey.activity)
    return [f"{name}: {why}"] if why else []


def _busy(activity: Activity) -> str:
    """Why an application cannot be closed there at once, and what is done then; empty where it can."""
    if activity.unsaved:
        return "unsaved work (waiting)"
    if activity.rendering:
        return "rendering (waiting)"
    idle = activity.idle_seconds
    if idle is None or idle < IDLE.total_seconds():
        return "in use (the editor is asked, or the seat waits until they are away)"
    return ""


def _battery(plan: SeatPlan, survey: Survey) -> str:
    """What must not end half way, or takes long, wants the mains."""
    lasts = plan.restarts or any(change.volume for change in plan.changes)
    if not lasts or not survey.activity.on_battery:
        return ""
    return "on battery (waiting for mains power)"


def _room(volume: Volume) -> str:
    if not volume.system or volume.free is None or volume.free >= SYSTEM_WANTS:
        return ""
    free = show(volume.free, Dimension.BYTES, unit="MB")
    return f"only {free} free on {volume.mount}: backups of the files need space there"
