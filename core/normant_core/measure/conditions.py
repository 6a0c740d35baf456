"""What a trial may set, and which changes that takes on a seat."""

from collections.abc import Iterable, Mapping, Sequence

import msgspec

from ..base.errors import NormantError, QuantityError
from ..base.quantities import Plain, Value, parse_quantity
from ..catalogue.settings import Kind, Setting, ValueFault, catalogue
from ..dialects.dialect import Dialect
from ..judging.judge import Verdict
from ..judging.norms import Norm
from ..orders.kinds import SetGpuPreference, SetPowerProfile, SetPreference, SetPriority, Settable, settable
from ..plan.actions import actions_of
from ..plan.plan import Means, plan_seat
from ..seat.survey import Survey
from .design import DesignError
from .question import SetValue


def wanted_value(setting: str, app: str | None, value: Plain) -> SetValue:
    """A value that a condition is to set, canonical, and as people read it.

    Raises DesignError for what no trial sets: what does not go back by itself (folders, drivers, templates of
    projects), what a person must do at the seat, and values that nobody may set.
    """
    known = catalogue().settings.get(setting)
    if known is None:
        raise DesignError(f"there is no setting {setting[:80]!r}")
    if not is_triable(setting):
        raise DesignError(f"{known.title} cannot be set by a trial, because it cannot be restored automatically")
    if (known.scope == "machine") != (app is None):
        raise DesignError(f"{known.title} is set {'of the machine' if app else 'of an application'}")
    try:
        parsed = known.parse(_whole(known, value))
    except ValueFault as fault:
        raise DesignError(str(fault)) from fault
    if str(parsed).lower() in known.never:
        raise DesignError(f"{known.title} cannot be set to {known.show(parsed)}: {known.danger}")
    return SetValue(setting, app, known.plain(parsed), known.show(parsed))


def _whole(setting: Setting, value: Plain) -> Plain:
    """People type `12.8 GiB`, which is no whole number of bytes: the nearest that is."""
    if setting.kind is not Kind.BYTES or not isinstance(value, str):
        return value
    try:
        return round(parse_quantity(value, setting.dimension))
    except (QuantityError, OverflowError):
        return value  # the setting says what it expected


def is_triable(setting: str) -> bool:
    """Whether runs can be made with other values of a setting, which go back by themselves.

    Folders do not, nor what an application removes from a store because of a smaller limit.
    """
    known = catalogue()[setting]
    return known.kind is not Kind.PATH and known.family != "stores" and known.scope != "project" and known.remote


def changes_for(sets: Iterable[SetValue], survey: Survey, dialects: Sequence[Dialect]) -> tuple[Settable, ...]:
    """What an agent changes so that a seat has these values: nothing where it has them.

    Raises NormantError, with the seat's reason, where one of them cannot be set there.
    """
    values = survey.values()
    verdicts = [_as_verdict(wanted, values) for wanted in sets if not _is_there(wanted, values)]
    natives = {(reading.setting, reading.app): reading.native for reading in survey.readings if reading.native}
    plan = plan_seat(survey.seat, verdicts, facts=survey.facts, natives=natives, means=Means(dialects))
    if plan.left:
        left = plan.left[0]
        raise NormantError(f"{catalogue()[left.setting].title} cannot be set on {survey.seat}: {left.why}")
    actions = [action for action, _ in actions_of(plan)]
    changes = settable(actions)
    if len(changes) < len(actions):
        raise NormantError(f"this cannot be restored automatically on {survey.seat}")
    return changes


def values_of(changes: Iterable[Settable]) -> set[tuple[str, str | None, Plain]]:
    """Setting, application and value of everything that is changed."""
    values = set[tuple[str, str | None, Plain]]()
    for action in changes:
        match action:
            case SetPreference(app=app, changes=of_file):
                values |= {(change.setting, app, change.value) for change in of_file}
            case SetPowerProfile(profile=profile):
                values.add(("power.profile", None, profile))
            case SetPriority(app=app, priority=priority):
                values.add(("power.process_priority", app, priority))
            case SetGpuPreference(app=app, preference=preference):
                values.add(("engine.system_preference", app, preference))
    return values


def at_once(changes: Iterable[Settable]) -> tuple[Settable, ...]:
    """The same for somebody who sits there and waits for it: an application is closed though it was just used."""
    return tuple(
        msgspec.structs.replace(change, close_when_idle_seconds=0)
        if isinstance(change, SetPreference | SetGpuPreference)
        else change
        for change in changes
    )


def closes(sets: Iterable[SetValue]) -> tuple[str, ...]:
    """The applications that are closed for these values."""
    return tuple(dict.fromkeys(s.app for s in sets if s.app and catalogue()[s.setting].restart == "app"))


def _is_there(wanted: SetValue, values: Mapping[tuple[str, str | None], Value]) -> bool:
    here = values.get((wanted.setting, wanted.app))
    return here is not None and here == catalogue()[wanted.setting].parse(wanted.value)


def _as_verdict(wanted: SetValue, values: Mapping[tuple[str, str | None], Value]) -> Verdict:
    """What a plan settles, with the value of a trial in the place of a norm's."""
    setting, here = catalogue()[wanted.setting], values.get((wanted.setting, wanted.app))
    if here is None:
        raise NormantError(f"{setting.title} is unknown on this seat")
    return Verdict(
        setting=wanted.setting,
        app=wanted.app,
        status="off-norm",
        severity="advise",
        reading=setting.plain(here),
        reading_shown=setting.show(here),
        norm=Norm("want", (wanted.value,), wanted.shown),
        distance=None,
        fix=wanted.value,
        fix_shown=wanted.shown,
        layer="",
        chain=(),
        because="",
        evidence="",
    )
