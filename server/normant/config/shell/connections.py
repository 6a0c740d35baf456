"""Connections as uvicorn keeps them, with bounds: on their number, and on how long a request may take to begin."""

import asyncio
from collections import Counter
from functools import lru_cache
from ipaddress import ip_address, ip_network
from typing import Any, ClassVar

import h11
from django.conf import settings
from uvicorn.protocols.http.h11_impl import H11Protocol

MOST = 8_000  # connections of one process
MOST_OF_ONE = 2_000  # of them from one address, unless it is a proxy that the house names
HELLO_SECONDS = 15.0  # from the connection, or the first byte after an answer, to the end of a request's head


class Connection(H11Protocol):
    """A connection that is cut where its request does not come, and that the shell may cut."""

    _hello: asyncio.TimerHandle | None = None
    _address = ""
    _by_address: ClassVar = Counter[str]()

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Take a connection, or cut it where there are too many."""
        super().connection_made(transport)
        self.app_state = {**self.app_state, "cut": transport.abort}
        host = str((transport.get_extra_info("peername") or ("",))[0])
        self._address = network_of(host)
        self._by_address[self._address] += 1
        too_many = self._by_address[self._address] > MOST_OF_ONE and not is_proxy(host)
        if too_many or len(self.connections) > MOST:
            transport.abort()
        self._wait_for_head()

    def connection_lost(self, exc: Exception | None) -> None:
        """Forget it."""
        self._stop_waiting()
        self._by_address[self._address] -= 1
        if not self._by_address[self._address]:
            del self._by_address[self._address]
        super().connection_lost(exc)

    def data_received(self, data: bytes) -> None:
        """Take bytes; a head that began has its time, however slowly it drips."""
        super().data_received(data)
        between = self.conn.their_state in (h11.IDLE, h11.MUST_CLOSE) and not self.transport.is_closing()
        if not between:
            self._stop_waiting()
        elif self._hello is None:
            self._wait_for_head()

    def timeout_keep_alive_handler(self) -> None:
        """An answered connection stayed silent."""
        self._stop_waiting()
        super().timeout_keep_alive_handler()

    def _wait_for_head(self) -> None:
        self._hello = self.loop.call_later(HELLO_SECONDS, self.transport.abort)

    def _stop_waiting(self) -> None:
        if self._hello is not None:
            self._hello.cancel()
            self._hello = None


def network_of(host: str) -> str:
    """What somebody has to themselves: an address, of IPv6 the network."""
    return ":".join(host.split(":")[:4]) if ":" in host else host


@lru_cache(maxsize=1024)
def is_proxy(host: str) -> bool:
    """Whether the house names it as one of its proxies."""
    try:
        address = ip_address(host)
    except ValueError:
        return False
    return any(address in ip_network(proxy) for proxy in settings.NORMANT.proxies)


def how_to_serve(**others: Any) -> dict[str, Any]:
    """What uvicorn is told, for every way in which the server is started."""
    return {
        "http": Connection,
        "ws": "none",
        "proxy_headers": False,  # the shell does it, for the proxies that the house names
        "server_header": False,
        "access_log": False,
        "log_level": "warning",
        "timeout_graceful_shutdown": 3,
        "backlog": 2048,
        **others,
    }
