"""Which hosts the server itself speaks to: an address must not be a way to ask its own machine for things.

A name is looked up once. What is checked is what is spoken to: a name service cannot answer otherwise in between.
"""

import asyncio
import ipaddress
import re
import socket
import ssl
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any
from urllib.parse import SplitResult, urlsplit

if TYPE_CHECKING:
    import httpx

LONGEST_ADDRESS = 500
# Networks whose addresses end in an IPv4 address: compatible, mapped, and translated.
_LAST_FOUR_BYTES = tuple(map(ipaddress.IPv6Network, ("::/96", "::ffff:0:0/96", "64:ff9b::/96", "64:ff9b:1::/48")))
_Ip = ipaddress.IPv4Address | ipaddress.IPv6Address
SECONDS = 10  # for the whole of an answer
_UNFIT = re.compile(r"[\x00-\x20\x7f]")


class NotReached(Exception):
    """Why the server does not speak to an address."""


@dataclass(frozen=True, slots=True)
class Place:
    """An address that was looked up: `ip` is what is spoken to, `host` who it has to be."""

    address: str
    host: str
    ip: str


@dataclass(frozen=True, slots=True)
class Answer:
    """What a host answered."""

    status: int
    body: bytes


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
        raise NotReached(f"no hosts are allowed: list them in {variable}")
    if allowed and host not in allowed:
        raise NotReached(f"{host} is not one of the allowed hosts: {', '.join(allowed)}")
    try:
        addresses = [str(entry[4][0]) for entry in socket.getaddrinfo(host, parts.port, type=socket.SOCK_STREAM)]
    except (OSError, UnicodeError) as fault:
        raise NotReached(f"{host} cannot be resolved: check the spelling") from fault
    near = [] if allowed else sorted(filter(_is_near, addresses))
    if near:
        raise NotReached(f"{host} is {near[0]}, this machine or its link: name it in {variable} to allow it")
    return Place(address, host, addresses[0])


def asked(
    place: Place,
    method: str,
    *,
    headers: Mapping[str, str],
    content: bytes | None = None,
    most_bytes: int = 0,
) -> Answer:
    """What it answers, redirects not followed. Raises NotReached where there is no answer of so many bytes in time.

    A host that sends a byte now and then holds nobody up longer. Without `most_bytes` nobody reads the body, however
    long it is.
    """
    import httpx  # noqa: PLC0415 (heavy, and needed where the server asks another only)

    try:
        return asyncio.run(_answer(place, method, headers, content, most_bytes))
    except TimeoutError as late:
        raise NotReached(f"no answer within {SECONDS} s") from late
    except (httpx.HTTPError, httpx.InvalidURL, OSError, ValueError) as fault:
        raise NotReached(f"no answer: {type(fault).__name__}") from fault  # its words may repeat the address


async def _answer(
    place: Place, method: str, headers: Mapping[str, str], content: bytes | None, most_bytes: int
) -> Answer:
    import httpx  # noqa: PLC0415 (heavy, as above)

    url = httpx.URL(place.address)
    there = url.copy_with(host=place.ip.partition("%")[0])
    sent_headers = {**headers, "Host": url.netloc.decode("ascii")}
    options: dict[str, Any] = {"timeout": SECONDS, "follow_redirects": False, "trust_env": False}
    async with (
        asyncio.timeout(SECONDS),
        httpx.AsyncClient(verify=ssl.create_default_context(), **options) as client,
        client.stream(
            method, there, headers=sent_headers, content=content, extensions={"sni_hostname": place.host}
        ) as answer,
    ):
        return Answer(answer.status_code, await _body(answer, most_bytes) if most_bytes else b"")


async def _body(answer: "httpx.Response", most_bytes: int) -> bytes:
    got = bytearray()
    async for piece in answer.aiter_bytes():
        got += piece
        if len(got) > most_bytes:
            raise NotReached(f"the file is larger than {most_bytes:,} bytes")
    return bytes(got)


def _is_near(text: str) -> bool:
    """Whether an address is this machine or its link, also where it is an IPv4 address in the form of an IPv6 one."""
    return any(
        ip.is_loopback or ip.is_link_local or ip.is_unspecified or ip.is_multicast
        for ip in _forms(ipaddress.ip_address(text.partition("%")[0]))
    )


def _forms(ip: _Ip) -> Iterator[_Ip]:
    """Yield the address, and the IPv4 addresses that it stands for: by RFC 4291, 6052, 3056 and 4380."""
    yield ip
    if isinstance(ip, ipaddress.IPv4Address):
        return
    if any(ip in network for network in _LAST_FOUR_BYTES):
        yield ipaddress.IPv4Address(int(ip) & 0xFFFFFFFF)
    yield from (inner for inner in (ip.sixtofour, *(ip.teredo or ())) if inner)
