"""The server's door for agents, over HTTP."""

import gzip
from pathlib import Path
from typing import Any

import httpx
import msgspec

from normant_core.dialect import Dialect, parse_dialect
from normant_core.orders import Progress, Receipt, Refusal, SignedOrder
from normant_core.survey import Survey

from . import VERSION
from .errors import DoorError, HostError
from .identity import Identity

TIMEOUT = httpx.Timeout(10, read=40)
_GZIP_FROM = 4096  # bytes; below it the header costs more than it saves


class Items(msgspec.Struct, frozen=True):
    """A list of orders as the server sends it."""

    items: tuple[SignedOrder, ...]


class Taken(msgspec.Struct, frozen=True):
    """What the server says of a survey: whether it told anything new, and how many orders wait."""

    changed: bool
    orders: int


def enrol(server: str, code: str, *, transport: httpx.BaseTransport | None = None) -> Identity:
    """Redeem a one-time code. Raises DoorError with the server's reason."""
    with httpx.Client(base_url=server, timeout=TIMEOUT, transport=transport, trust_env=False) as client:
        answer = _sent(client, "POST", "/api/v1/agent/enrol", json={"code": code, "version": VERSION})
    told = answer.json()
    try:
        return msgspec.convert({**told, "server": server}, Identity)
    except msgspec.ValidationError as fault:
        raise DoorError(f"{server} is no Normant server: {fault}") from fault


class Door:
    """One seat's side of the protocol; every method raises DoorError."""

    def __init__(self, identity: Identity, *, transport: httpx.BaseTransport | None = None) -> None:
        headers = {"Authorization": f"Bearer {identity.token}", "User-Agent": f"normant-agent/{VERSION}"}
        self._client = httpx.Client(
            base_url=identity.server, headers=headers, timeout=TIMEOUT, transport=transport, trust_env=False
        )

    def close(self) -> None:
        """Let go of the connections."""
        self._client.close()

    def dialects(self) -> list[Dialect]:
        """Every dialect of the house."""
        items = _sent(self._client, "GET", "/api/v1/agent/dialects").json()["items"]
        return [parse_dialect(item["text"], item["app"]) for item in items]

    def fetch(self, what: str, sha256: str, path: Path) -> None:
        """Bring one of the packages or templates to a path; piece by piece, and whole or not at all."""
        part = path.with_name(f"{path.name}.part")
        try:
            with self._client.stream("GET", f"/api/v1/agent/{what}/{sha256}") as answer:
                if not answer.is_success:
                    answer.read()
                    raise DoorError(_reason(answer), status=answer.status_code)
                with part.open("wb") as file:
                    for piece in answer.iter_bytes():
                        file.write(piece)
        except httpx.HTTPError as fault:
            raise DoorError(f"{self._client.base_url} cannot be reached: {fault}") from fault
        except OSError as fault:
            raise HostError(f"{path.name[:12]}… cannot be kept: {fault.strerror}") from fault
        part.replace(path)

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
        told = answer.json()
    except ValueError:
        return f"the server answered {answer.status_code}"
    return str(told.get("detail") or told.get("title") or answer.status_code)
