"""The simulated network of a seat, against a real server on loopback."""

import tempfile
import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import ClassVar
from unittest import TestCase

import httpx

from normant_core.seat.facts import Facts
from normant_core.seat.survey import Activity
from normant_standin.host import StandInHost
from normant_standin.machine import Machine
from normant_standin.seat import Cable


class Counting(BaseHTTPRequestHandler):
    """Counts what arrives; `during` is called before it answers."""

    arrived: ClassVar[list[str]] = []
    during: ClassVar[list[StandInHost]] = []

    def do_GET(self) -> None:
        self.arrived.append(self.command)
        self.rfile.read(int(self.headers.get("Content-Length", 0)))
        for host in self.during:
            with host.changed() as machine:
                machine.online = False
        self.send_response(200)
        self.end_headers()
        self.wfile.write(str(len(self.arrived)).encode())

    do_POST = do_GET

    def log_message(self, format: str, *args: object) -> None:
        """Nothing: the test reads `arrived`."""


class Network(TestCase):
    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.host = StandInHost(Path(temporary.name))
        Machine(Facts(), "balanced", [], (), Activity()).save(self.host.folder)
        Counting.arrived.clear()
        Counting.during.clear()
        server = ThreadingHTTPServer(("127.0.0.1", 0), Counting)
        self.address = f"http://127.0.0.1:{server.server_port}"
        serving = threading.Thread(target=server.serve_forever)
        serving.start()
        self.addCleanup(serving.join)
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        self.client = httpx.Client(transport=Cable(self.host.folder), base_url=self.address)
        self.addCleanup(self.client.close)

    def test_a_request_passes_while_the_cable_is_in_and_none_while_it_is_out(self) -> None:
        self.assertEqual(self.client.get("/").text, "1")
        with self.host.changed() as machine:
            machine.online = False
        with self.assertRaises(httpx.ConnectError):
            self.client.get("/")
        self.assertEqual(Counting.arrived, ["GET"])

    def test_an_answer_is_lost_when_the_cable_comes_out_meanwhile(self) -> None:
        Counting.during.append(self.host)
        with self.assertRaises(httpx.ConnectError):
            self.client.post("/", content=b"receipt")
        self.assertEqual(Counting.arrived, ["POST"])  # the server has it all the same

    def test_a_network_that_delivers_twice_repeats_what_is_handed_in_and_nothing_else(self) -> None:
        with self.host.changed() as machine:
            machine.hands_in_twice = True
        self.assertEqual(self.client.post("/", content=b"survey").text, "2")
        self.client.get("/")
        self.assertEqual(Counting.arrived, ["POST", "POST", "GET"])
