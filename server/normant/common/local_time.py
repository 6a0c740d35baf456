"""Moments in sentences, in the facility's time zone (the option `NORMANT_TIME_ZONE`)."""

import datetime as dt

from django.utils import timezone

DAYS_WITH_NAME = 6  # on the seventh, the day of the week would be that of today


def local_words(moment: dt.datetime, now: dt.datetime | None = None) -> str:
    """Return `20:00` for today, `Tue 20:00` for the six days before and after, else `21 Feb 2026 20:00`.

    Args:
        moment: An aware moment, in any time zone.
        now: The moment to count from; the present if not given.
    """
    local, here = timezone.localtime(moment), timezone.localtime(now)
    if local.date() == here.date():
        return f"{local:%H:%M}"
    days = abs((local.date() - here.date()).days)
    return f"{local:%a %H:%M}" if days <= DAYS_WITH_NAME else full_words(moment)


def full_words(moment: dt.datetime) -> str:
    """Return a moment with its date and year: `21 Feb 2026 20:00`."""
    return f"{timezone.localtime(moment):%d %b %Y %H:%M}"
