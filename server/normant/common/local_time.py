"""Moments in sentences, in the facility's time zone (the option `NORMANT_TIME_ZONE`)."""

import datetime as dt

from django.utils import timezone

WEEK = dt.timedelta(days=7)


def local_words(moment: dt.datetime, now: dt.datetime | None = None) -> str:
    """Return `20:00` for a moment of today, `Tue 20:00` within a week, `21 Feb 2026 20:00` for any other.

    Args:
        moment: An aware moment, in any time zone.
        now: The moment to count from; the present if not given.
    """
    local, here = timezone.localtime(moment), timezone.localtime(now)
    if local.date() == here.date():
        return f"{local:%H:%M}"
    return f"{local:%a %H:%M}" if abs(local - here) < WEEK else full_words(moment)


def full_words(moment: dt.datetime) -> str:
    """Return a moment with its date and year: `21 Feb 2026 20:00`."""
    return f"{timezone.localtime(moment):%d %b %Y %H:%M}"
