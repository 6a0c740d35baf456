"""The server's door for agents, over HTTP."""

import gzip
import hashlib
import ipaddress
import ssl
from pathlib import Path
from typing import Any

import httpx
import msgspec

from normant_core import VERSION
from normant_core.orders.clearing import Deleted, Finished
from normant_core.orders.kinds import Progress, Receipt, Refusal, SignedOrder
from normant_core.seat.survey import Survey

from .errors import DoorError, HostError
from .identity import Identity
from .orders.seal import SignedDialect

TIMEOUT = httpx.Timeout(10, read=40)
_GZIP_FROM = 4096  # bytes; below it the header costs more than it saves


class Items(msgspec.Struct, frozen=True):
    """A list of orders as the server sends it."""

    items: tuple[SignedOrder, ...]


class Dialects(msgspec.Struct, frozen=True):
    """A list of dialects as the server sends it."""

    items: tuple[SignedDialect, ...]


class Taken(msgspec.Struct, frozen=True):
    """What the server says of a survey: whether it told anything new, and how many orders wait."""

    changed: bool
    orders: int


def enrol(server: str, code: str, *, ca: str = "", transport: httpx.BaseTransport | None = None) -> Identity:
    """Redeem a one-time code, over HTTPS unless the server is this machine; `ca` is a file of certificates that are
    trusted besides the system's. Raises DoorError with the server's reason."""
    check_address(server)
    with _client(server, ca, transport=transport) as client:
        answer = _sent(client, "POST", "/api/v1/agent/enrol", json={"code": code, "version": VERSION})
    try:
        return msgspec.convert({**answer.json(), "server": server, "ca": ca}, Identity)
    except (ValueError, TypeError, msgspec.ValidationError) as fault:
        raise DoorError(f"{server} is no Normant server: {fault}") from fault


def check_address(server: str) -> None:
    """Raises DoorError for a server to which a token would go in plain text, or that is no address."""
    try:
        url = httpx.URL(server)
    except httpx.InvalidURL as fault:
        raise DoorError(f"{server!r} is no address: expected https://host") from fault
    if url.scheme == "https" and url.host:
        return
    if url.scheme != "http" or not _is_loopback(url.host):
        raise DoorError(f"{server!r} would be spoken to in plain text: expected https://host")


def _is_loopback(host: str) -> bool:
    try:
        return ipaddress.ip_address(host.strip("[]")).is_loopback
    except ValueError:
        return host == "localhost"


def _client(server: str, ca: str, *, transport: httpx.BaseTransport | None, **headers: str) -> httpx.Client:
    """The system's own certificates are trusted, and those of the house's authority where it has one."""
    try:
        trusted = ssl.create_default_context()
        if ca:
            trusted.load_verify_locations(cafile=ca)
    except (OSError, ssl.SSLError) as fault:
        raise DoorError(f"{ca} cannot be used as certificates: {fault}") from fault
    return httpx.Client(
        base_url=server, headers=headers, timeout=TIMEOUT, transport=transport, trust_env=False, verify=trusted
    )


class Door:
    """One seat's side of the protocol; every method raises DoorError."""

    def __init__(self, identity: Identity, *, transport: httpx.BaseTransport | None = None) -> None:
        check_address(identity.server)
        self.key = identity.key
        headers = {"Authorization": f"Bearer {identity.token}", "User-Agent": f"normant-agent/{VERSION}"}
        self._client = _client(identity.server, identity.ca, transport=transport, **headers)

    def close(self) -> None:
        """Let go of the connections."""
        self._client.close()

    def dialects(self) -> tuple[SignedDialect, ...]:
        """Every dialect of the house, as it is signed; whether by the house, is for the agent to see."""
        answer = _sent(self._client, "GET", "/api/v1/agent/dialects")
        try:
            return msgspec.json.decode(answer.content, type=Dialects).items
        except msgspec.DecodeError as fault:
            raise DoorError(f"the server's dialects cannot be read: {fault}") from fault

    def fetch(self, what: str, sha256: str, path: Path, most: int) -> None:
        """Bring one of the packages or templates to a path, whole or not at all: counted and hashed while it comes, it
        is given up as soon as it has more than `most` bytes. Raises HostError where it is not what was named."""
        part = path.with_name(f"{path.name}.part")
        hashed, size = hashlib.sha256(), 0
        try:
            with self._client.stream("GET", f"/api/v1/agent/{what}/{sha256}") as answer:
                if not answer.is_success:
                    answer.read()
                    raise DoorError(_reason(answer), status=answer.status_code)
                with part.open("wb") as file:
                    for piece in answer.iter_bytes():
                        size += len(piece)
                        if size > most:
                            raise HostError(f"{path.name[:12]}… has more than {most:,} bytes: nothing was kept")
                        hashed.update(piece)
                        file.write(piece)
            if hashed.hexdigest() != sha256:
                raise HostError(f"what came is not {sha256[:12]}…: nothing was done with it")
            part.replace(path)
        except httpx.HTTPError as fault:
            raise DoorError(f"{self._client.base_url} cannot be reached: {fault}") from fault
        except OSError as fault:
            raise HostError(f"{path.name[:12]}… cannot be kept: {fault.strerror}") from fault
        finally:
            part.unlink(missing_ok=True)

    def propose_export(self, export: Finished) -> None:
        """Tell of an export that may be a delivery."""
        _sent(self._client, "POST", "/api/v1/agent/exports", json=msgspec.to_builtins(export))

    def list_part(self, order: str, number: int, piece: bytes) -> None:
        """Hand in a part of the list that an order asked for."""
        headers = {"Content-Type": "application/x-ndjson", "Content-Encoding": "gzip"}
        content = gzip.compress(piece, compresslevel=6)
        _sent(self._client, "POST", f"/api/v1/agent/orders/{order}/list/{number}", content=content, headers=headers)

    def send(self, survey: Survey) -> Taken:
        """Hand in a survey."""
        body = msgspec.json.encode(survey)
        headers = {"Content-Type": "application/json"}
        if len(body) >= _GZIP_FROM:
            body, headers["Content-Encoding"] = gzip.compress(body, 5), "gzip"
        answer = _sent(self._client, "POST", "/api/v1/agent/survey", content=body, headers=headers)
        return msgspec.json.decode(answer.content, type=Taken)

    def wait(self, seconds: int) -> int:
        """The number of orders, as soon as there is one or after that time."""
        answer = _sent(self._client, "GET", "/api/v1/agent/wait", params={"seconds": seconds})
        return int(answer.json()["orders"])

    def orders(self) -> tuple[SignedOrder, ...]:
        """Orders without a receipt, oldest first."""
        answer = _sent(self._client, "GET", "/api/v1/agent/orders")
        return msgspec.json.decode(answer.content, type=Items).items

    def progress(self, order: str, progress: Progress) -> None:
        """Tell where an order stands."""
        _sent(self._client, "POST", f"/api/v1/agent/orders/{order}/progress", content=msgspec.json.encode(progress))

    def receipt(self, receipt: Receipt) -> None:
        """Hand in a receipt; handing it in again does no harm."""
        path = f"/api/v1/agent/orders/{receipt.order}/receipt"
        _sent(self._client, "POST", path, content=msgspec.json.encode(receipt))

    def deleted(self, order: str, deleted: Deleted) -> None:
        """Tell what became of the files that an order held for a day; telling it again does no harm."""
        path = f"/api/v1/agent/orders/{order}/deleted"
        _sent(self._client, "POST", path, content=msgspec.json.encode(deleted))

    def refuse(self, refusal: Refusal) -> None:
        """Tell of an order that is not carried out."""
        _sent(self._client, "POST", "/api/v1/agent/refusals", content=msgspec.json.encode(refusal))


def _sent(client: httpx.Client, method: str, path: str, **how: Any) -> httpx.Response:
    try:
        answer = client.request(method, path, **how)
    except httpx.HTTPError as fault:
        raise DoorError(f"{client.base_url} cannot be reached: {fault}") from fault
    if answer.is_success:
        return answer
    raise DoorError(_reason(answer), status=answer.status_code)


def _reason(answer: httpx.Response) -> str:
    """The detail of a problem document (RFC 9457), else the status."""
    try:
        body = answer.json()
    except ValueError:
        return f"the server answered {answer.status_code}"
    return str(body.get("detail") or body.get("title") or answer.status_code)
