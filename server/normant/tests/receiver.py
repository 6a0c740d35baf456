"""Somebody who is told by webhook."""

from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, HTTPServer
from threading import Thread
from typing import Any


class Receiver(BaseHTTPRequestHandler):
    """Takes what is posted, hands out its body, and answers as it is told to."""

    status = 204
    body = b""
    got: list[tuple[dict[str, str], bytes]]

    def do_POST(self) -> None:
        self.got.append((dict(self.headers), self.rfile.read(int(self.headers["Content-Length"]))))
        self.send_response(self.status)
        self.send_header("Location", "/elsewhere")
        self.end_headers()

    def do_GET(self) -> None:
        self.send_response(self.status)
        self.end_headers()
        self.wfile.write(self.body)

    def log_message(self, *words: Any) -> None:
        pass


@contextmanager
def receiver(status: int = 204, body: bytes = b"") -> Iterator[tuple[str, list[tuple[dict[str, str], bytes]]]]:
    """(address, what it got) of somebody who is told by webhook."""
    handler = type("Answering", (Receiver,), {"status": status, "body": body, "got": []})
    with HTTPServer(("127.0.0.1", 0), handler) as server:
        Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_port}/told", handler.got
        server.shutdown()
