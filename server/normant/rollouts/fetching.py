"""Fetching a calendar from the address that a house follows."""

import httpx
from django.conf import settings

from normant.common.reach import refused_host
from normant_core.booked import LIMIT_BYTES

PATIENCE = 10  # seconds
VARIABLE = "NORMANT_CALENDAR_HOSTS"


class NotFetched(Exception):
    """Why there is no calendar from that address now."""


def fetched(address: str) -> bytes:
    """What is there, as it is; redirects are not followed. Raises NotFetched."""
    if not address.startswith(("http://", "https://")):
        raise NotFetched(f"{address!r} is no address: expected https://…")
    if why := refused_host(address, settings.NORMANT_CALENDAR_HOSTS, VARIABLE):
        raise NotFetched(why)
    try:
        with (
            httpx.Client(timeout=PATIENCE, follow_redirects=False, trust_env=False) as client,
            client.stream("GET", address, headers={"Accept": "text/calendar"}) as answer,
        ):
            if answer.status_code != httpx.codes.OK:
                raise NotFetched(f"it answered {answer.status_code}: expected 200 with a calendar")
            return _body(answer)
    except (httpx.HTTPError, httpx.InvalidURL) as fault:
        raise NotFetched(f"no answer: {fault or type(fault).__name__}") from fault


def _body(answer: httpx.Response) -> bytes:
    got = b""
    for piece in answer.iter_bytes():
        got += piece
        if len(got) > LIMIT_BYTES:
            raise NotFetched(f"what is there is larger than {LIMIT_BYTES:,} bytes")
    return got
