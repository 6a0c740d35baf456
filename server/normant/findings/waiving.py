"""Waivers as core knows them."""

import datetime as dt

from normant_core.house.waivers import Waiver as CoreWaiver

from .models import Waiver


def waivers_at(moment: dt.datetime) -> list[CoreWaiver]:
    """Those that held at a moment."""
    return [core(waiver) for waiver in Waiver.objects.holding(moment)]


def core(waiver: Waiver) -> CoreWaiver:
    """One of them."""
    return CoreWaiver(
        id=waiver.pk or 0,
        setting=waiver.setting,
        app=waiver.app or None,
        seats=frozenset(waiver.seats),
        groups=waiver.groups,
        reason=waiver.reason,
        begins=waiver.made_at,
        ends=waiver.ended_at or waiver.ends_at,
        until_production=waiver.until_production,
    )
