"""Connections as uvicorn keeps them, with a bound on their number and on how long a request may take to begin."""

import asyncio
from typing import Any

import h11
from uvicorn.protocols.http.h11_impl import H11Protocol

MOST = 8_000  # connections of one process
HELLO_SECONDS = 15.0  # from the connection, or the first byte after an answer, to the end of a request's head


class Connection(H11Protocol):
    """A connection that is cut where its request does not come, and that the shell may cut."""

    _hello: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Take a connection, or cut it where there are too many."""
        super().connection_made(transport)
        self.app_state = {**self.app_state, "cut": transport.abort}
        if len(self.connections) > MOST:
            transport.abort()
        self._wait_for_head()

    def connection_lost(self, exc: Exception | None) -> None:
        """Forget it."""
        self._stop_waiting()
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
