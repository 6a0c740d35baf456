"""What can be tried on seats: settings that were read on all of them, and that go back by themselves."""

from collections.abc import Iterator, Sequence
from typing import Any, get_args

from normant.findings.models import Finding
from normant.seats.models import Seat
from normant.seats.views_of import latest_surveys
from normant_core.base.quantities import Plain, Value
from normant_core.base.wording import with_app
from normant_core.catalogue.settings import Kind, Setting, catalogue
from normant_core.measure.conditions import is_triable
from normant_core.measure.question import jobs_alone
from normant_core.orders.kinds import Job
from normant_core.seat.survey import Survey

Key = tuple[str, str | None]
OF_SYSTEM = ("power.profile", "power.process_priority", "engine.system_preference")


def triable_on(seats: Sequence[Seat]) -> Iterator[dict[str, Any]]:
    """Each with what it is on these seats, and with what the standard wants of it where it is off norm on one."""
    surveys = latest_surveys(seat.pk for seat in seats)
    values = [surveys[seat.pk].values() for seat in seats if seat.pk in surveys]
    if not values or len(values) < len(seats):
        return
    reached = set.intersection(*({*_reached(survey)} for survey in surveys.values()))
    wanted = _wanted(seats)
    hosts = {survey.agent.host for survey in surveys.values()}
    jobs = [job for job in get_args(Job) if all(job in jobs_alone(host) for host in hosts)]
    for key in sorted(reached, key=lambda key: (key[0], key[1] or "")):
        setting = catalogue()[key[0]]
        here = {setting.show(each[key]): each[key] for each in values if key in each}
        if len(here) == 0:
            continue
        yield {**_object(setting, key, here, wanted.get(key)), "jobs": jobs}


def _reached(survey: Survey) -> Iterator[Key]:
    """What an order can set: it stands in a file, or the system holds it."""
    for reading in survey.readings:
        if is_triable(reading.setting) and (reading.native or reading.setting in OF_SYSTEM):
            yield reading.setting, reading.app


def _wanted(seats: Sequence[Seat]) -> dict[Key, Plain]:
    """By what the standard would settle open findings of these seats."""
    findings = Finding.objects.open().filter(seat__in=seats).order_by("-pk")
    fixes = {(f.setting, f.app or None): f.verdict.get("fix") for f in findings}
    return {key: fix for key, fix in fixes.items() if fix is not None}


def _object(setting: Setting, key: Key, here: dict[str, Value], fix: Plain) -> dict[str, Any]:
    shown = setting.show(setting.parse(fix)) if fix is not None else ""
    values = [value for value in setting.values if value not in setting.never]
    return {
        "setting": key[0],
        "app": key[1],
        "title": f"{with_app(setting.title, key[1])}",
        "help": setting.help,
        "here": next(iter(here)) if len(here) == 1 else "",
        "wanted": shown if shown not in here else "",
        "values": values or (["true", "false"] if setting.kind is Kind.BOOL else []),
        "open": setting.open,
        "ordered": setting.ordered,
        "unit": setting.unit,
    }
