"""Fetching a calendar from the address that a house follows."""

from http import HTTPStatus

from django.conf import settings

from normant.common.reach import NotReached, asked, place_of
from normant_core.rollout.bookings import LIMIT_BYTES

VARIABLE = "NORMANT_CALENDAR_HOSTS"
_HEADERS = {"Accept": "text/calendar"}


class NotFetched(Exception):
    """Why there is no calendar from that address now."""


def fetched(address: str) -> bytes:
    """What is there, as it is; redirects are not followed. Raises NotFetched."""
    try:
        place = place_of(address, settings.NORMANT.calendar_hosts, VARIABLE)
        answer = asked(place, "GET", headers=_HEADERS, most_bytes=LIMIT_BYTES)
    except NotReached as why:
        raise NotFetched(str(why)) from why
    if answer.status != HTTPStatus.OK:
        raise NotFetched(f"the server answered {answer.status}; expected 200 with a calendar")
    return answer.body
