"""Which hosts the server itself speaks to: an address must not be a way to ask its own machine for things.

A name is looked up once. What is checked is what is spoken to: a name service cannot answer otherwise in between.
"""

import contextlib
import ipaddress
import re
import socket
import ssl
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any
from urllib.parse import SplitResult, urlsplit

import httpx

LONGEST_ADDRESS = 500
_UNFIT = re.compile(r"[\x00-\x20\x7f]")


class NotReached(Exception):
    """Why the server does not speak to an address."""


@dataclass(frozen=True, slots=True)
class Place:
    """An address that was looked up: `ip` is what is spoken to, `host` who it has to be."""

    address: str
    host: str
    ip: str


def parts_of(address: str) -> SplitResult:
    """An HTTP address that can be one. Raises NotReached."""
    try:
        parts = urlsplit(address)
        port = parts.port
        host = (parts.hostname or "").encode("idna").decode("ascii")
    except (ValueError, UnicodeError) as fault:
        raise NotReached("this is no address: expected https://host/path") from fault
    unfit = _UNFIT.search(address) or len(address) > LONGEST_ADDRESS or port == 0
    if unfit or parts.scheme not in ("http", "https") or not host or parts.username or parts.password:
        raise NotReached("this is no address: expected https://host/path, without a name or a password in it")
    return parts


def place_of(address: str, allowed: Sequence[str], variable: str, *, listed: bool = False) -> Place:
    """Where an address leads. Raises NotReached.

    A house names its hosts (in that environment variable); unless they have to be `listed` it may leave it at any that
    is not this machine or its own link.
    """
    parts = parts_of(address)
    host = parts.hostname or ""
    if listed and not allowed:
        raise NotReached(f"this house names no hosts that may be told: {variable} lists them")
    if allowed and host not in allowed:
        raise NotReached(f"{host} is not among the hosts of this house: {', '.join(allowed)}")
    try:
        found = [str(one[4][0]) for one in socket.getaddrinfo(host, parts.port, type=socket.SOCK_STREAM)]
    except (OSError, UnicodeError) as fault:
        raise NotReached(f"{host} is not known to the name service: check its spelling") from fault
    near = [] if allowed else sorted(filter(_is_near, found))
    if near:
        raise NotReached(f"{host} is {near[0]}, this machine or its link: name it in {variable} to allow it")
    return Place(address, host, found[0])


@contextlib.contextmanager
def asked(
    place: Place, method: str, *, headers: Mapping[str, str], content: bytes | None = None, seconds: float
) -> Iterator[httpx.Response]:
    """The answer, whose body nobody has read yet; redirects are not followed. Raises httpx.HTTPError."""
    url = httpx.URL(place.address)
    there = url.copy_with(host=place.ip.partition("%")[0])
    told = {**headers, "Host": url.netloc.decode("ascii")}
    options: dict[str, Any] = {"timeout": seconds, "follow_redirects": False, "trust_env": False}
    with (
        httpx.Client(verify=ssl.create_default_context(), **options) as client,
        client.stream(method, there, headers=told, content=content, extensions={"sni_hostname": place.host}) as answer,
    ):
        yield answer


def _is_near(text: str) -> bool:
    ip = ipaddress.ip_address(text.partition("%")[0])
    ip = getattr(ip, "ipv4_mapped", None) or ip
    return ip.is_loopback or ip.is_link_local or ip.is_unspecified or ip.is_multicast
