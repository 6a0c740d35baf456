"""Fetching a calendar from the address that a house follows."""

import httpx
from django.conf import settings

from normant.common.reach import NotReached, asked, place_of
from normant_core.booked import LIMIT_BYTES

PATIENCE = 10  # seconds
VARIABLE = "NORMANT_CALENDAR_HOSTS"


class NotFetched(Exception):
    """Why there is no calendar from that address now."""


def fetched(address: str) -> bytes:
    """What is there, as it is; redirects are not followed. Raises NotFetched."""
    try:
        place = place_of(address, settings.NORMANT_CALENDAR_HOSTS, VARIABLE)
        with asked(place, "GET", headers={"Accept": "text/calendar"}, seconds=PATIENCE) as answer:
            if answer.status_code != httpx.codes.OK:
                raise NotFetched(f"it answered {answer.status_code}: expected 200 with a calendar")
            return _body(answer)
    except NotReached as why:
        raise NotFetched(str(why)) from why
    except (httpx.HTTPError, httpx.InvalidURL, OSError, ValueError) as fault:
        raise NotFetched(f"no answer: {type(fault).__name__}") from fault  # its words may repeat the address


def _body(answer: httpx.Response) -> bytes:
    got = b""
    for piece in answer.iter_bytes():
        got += piece
        if len(got) > LIMIT_BYTES:
            raise NotFetched(f"what is there is larger than {LIMIT_BYTES:,} bytes")
    return got
