"""The shell from outside: a real server process, and visitors who mean no good."""

import contextlib
import gzip
import json
import resource
import socket
import time
from concurrent.futures import ThreadPoolExecutor
from unittest import TestCase
from unittest.mock import patch
from uuid import UUID

from normant.accounts.services.verify_password import MOST_FROM_AN_ADDRESS
from normant.agents.urls import urlpatterns
from normant.config.shell.connections import MOST_OF_ONE
from normant.config.shell.patience import FORGIVEN, FREE, KNOWN, LONGEST, STEP, Patience
from normant.config.shell.routes import LIMITS, LONG, ORDINARY, route_of
from normant.tests.house import survey
from normant.tests.served import Served, served
from normant_core.orders.kinds import LIMIT_CLIP


class Door(TestCase):
    house: Served

    @classmethod
    def setUpClass(cls) -> None:
        cls.house = served()

    def raw(self, head: str, body: bytes = b"") -> socket.socket:
        """A connection on which these lines were sent."""
        made = self.connected()
        made.sendall(head.replace("\n", "\r\n").encode() + b"\r\n\r\n" + body)
        return made

    def connected(self) -> socket.socket:
        """A connection on which nothing was said yet."""
        made = socket.create_connection(("127.0.0.1", self.house.port), timeout=30)
        self.addCleanup(made.close)
        return made

    def status(self, made: socket.socket) -> int:
        """The status that comes back; 0 where the connection is cut."""
        with made.makefile("rb") as lines:
            line = lines.readline().split()
        return int(line[1]) if line else 0

    def answers(self) -> float:
        """How long an ordinary answer takes now, in seconds."""
        begun = time.monotonic()
        with self.house.client("viewer") as client:
            self.assertEqual(client.get("/api/v1/seats").status_code, 200)
        return time.monotonic() - begun


class Connections(Door):
    def test_one_address_does_not_take_them_all(self) -> None:
        resource.setrlimit(resource.RLIMIT_NOFILE, (resource.getrlimit(resource.RLIMIT_NOFILE)[1],) * 2)
        held = [self.connected() for _ in range(MOST_OF_ONE)]
        status = 0
        with contextlib.suppress(ConnectionError):  # cut before, while or after it is asked
            status = self.status(self.raw("GET /api/v1/session HTTP/1.1\nHost: 127.0.0.1"))
        self.assertEqual(status, 0)
        other = socket.create_connection(("127.0.0.1", self.house.port), 30, source_address=("127.0.0.2", 0))
        with other:
            other.sendall(b"GET /api/v1/session HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
            self.assertEqual(self.status(other), 200)
        for connection in held:
            connection.close()


class Bodies(Door):
    def test_bodies_that_never_come_hold_nobody_up(self) -> None:
        head = "POST /api/v1/session HTTP/1.1\nHost: 127.0.0.1\nContent-Type: application/json\nContent-Length: 900"
        for _ in range(60):
            self.raw(head, b"{")
        self.assertLess(self.answers(), 5)

    def test_a_body_that_does_not_come_is_answered_after_a_while(self) -> None:
        waiting = self.raw("POST /api/v1/session HTTP/1.1\nHost: 127.0.0.1\nContent-Length: 900", b"{")
        self.assertEqual(self.status(waiting), 408)

    def test_idle_connections_slow_nobody(self) -> None:
        for _ in range(1000):
            self.connected()
        self.assertLess(self.answers(), 5)

    def test_what_is_too_large_is_refused_unread(self) -> None:
        for path, length in (("/api/v1/session", 70_000), ("/api/v1/surveys", 10**12), ("/api/v1/agent/enrol", 5_000)):
            with self.subTest(path):
                made = self.raw(f"POST {path} HTTP/1.1\nHost: localhost\nContent-Length: {length}")
                self.assertEqual(self.status(made), 413)

    def test_a_large_body_of_a_stranger_is_refused_before_it_comes(self) -> None:
        for path, allowed in (
            ("/api/v1/house/archive", ""),
            ("/api/v1/packages", "viewer"),
            ("/api/v1/surveys", "editor"),
        ):
            with self.subTest(path):
                token = f"\nAuthorization: Bearer {self.house.tokens[allowed]}" if allowed else ""
                made = self.raw(f"POST {path} HTTP/1.1\nHost: localhost\nContent-Length: 900000{token}")
                self.assertEqual(self.status(made), 403 if allowed else 401)

    def test_a_chunked_body_has_the_same_bound(self) -> None:
        head = "POST /api/v1/session HTTP/1.1\nHost: localhost\nTransfer-Encoding: chunked"
        self.assertEqual(self.status(self.raw(head, b"20000\r\n" + b"x" * 0x20000 + b"\r\n0\r\n\r\n")), 413)

    def test_pages_feeds_and_figures_take_no_posts(self) -> None:
        for path in ("/", "/floor", "/metrics", "/calendar/x.ics", "/assets/x.js", "/api/v1/seats"):
            with self.subTest(path):
                made = self.raw(f"POST {path} HTTP/1.1\nHost: localhost\nContent-Length: 100000000")
                self.assertEqual(self.status(made), 405)

    def test_who_asks_before_sending_is_answered_before_sending(self) -> None:
        head = "POST {} HTTP/1.1\nHost: localhost\nExpect: 100-continue\nContent-Length: {}"
        self.assertEqual(self.status(self.raw(head.format("/api/v1/session", 20))), 100)
        self.assertEqual(self.status(self.raw(head.format("/api/v1/session", 10**9))), 413)
        self.assertEqual(self.status(self.raw(head.format("/floor", 20))), 405)

    def test_a_reader_who_does_not_read_holds_no_thread(self) -> None:
        with self.house.client() as client:
            page = client.get("/").text
        asset = next(line.split('"')[1] for line in page.split("src=")[1:] if "/assets/" in line)
        for _ in range(40):
            made = socket.socket()
            made.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 2048)
            made.connect(("127.0.0.1", self.house.port))
            self.addCleanup(made.close)
            made.sendall(f"GET {asset} HTTP/1.1\r\nHost: localhost\r\n\r\n".encode())
        self.assertLess(self.answers(), 5)


class Who(Door):
    def test_a_strangers_survey_is_not_read(self) -> None:
        faulty = {**survey(), "readings": [{"setting": "no.such", "value": n} for n in range(3_000)]}
        body = gzip.compress(json.dumps(faulty).encode())
        headers = {"Content-Encoding": "gzip"}
        for token in ("", "junk", self.house.tokens["administrator"]):
            with self.subTest(token[:5]), self.house.client(token) as client:
                self.assertEqual(client.post("/api/v1/agent/survey", content=body, headers=headers).status_code, 401)

    def test_an_agents_faults_are_told_up_to_a_bound(self) -> None:
        faulty = {**survey(), "readings": [{"setting": "no.such", "value": n} for n in range(3_000)]}
        with self.house.client("agent") as client:
            answer = client.post("/api/v1/agent/survey", json=faulty)
        self.assertEqual((answer.status_code, len(answer.json()["faults"])), (422, 50))

    def test_agents_doors_ask_for_a_token_before_anything_else(self) -> None:
        for pattern in urlpatterns:
            path = str(pattern.pattern).replace("<str:order>", "1").replace("<str:digest>", "1")
            path = path.replace("<uuid:order>", str(UUID(int=1))).replace("<int:number>", "0")
            if path == "enrol":
                continue
            with self.subTest(path), self.house.client("junk") as client:
                method = pattern.callback.method
                self.assertEqual(client.request(method, f"/api/v1/agent/{path}", content=b"{").status_code, 401)

    def test_the_house_is_known_by_its_names_alone(self) -> None:
        for host, expected in (("evil.example", 400), ("", 400), ("127.0.0.1", 200), ("localhost:99", 200)):
            with self.subTest(host):
                self.assertEqual(self.status(self.raw(f"GET /api/v1/session HTTP/1.1\nHost: {host}")), expected)

    def test_nonsense_in_addresses_and_headers_is_no_fault_of_ours(self) -> None:
        with self.house.client("agent") as agent:
            self.assertEqual(agent.get("/api/v1/agent/wait?seconds=%C2%B2&").status_code, 200)
        head = f"GET /api/v1/events HTTP/1.1\nHost: localhost\nAuthorization: Bearer {self.house.tokens['viewer']}"
        self.assertEqual(self.status(self.raw(f"{head}\nLast-Event-ID: abc-\xb2")), 200)
        with self.house.client("supervisor") as client:
            form = {"Content-Type": "multipart/form-data"}
            self.assertIn(client.post("/api/v1/templates", content=b"x", headers=form).status_code, (400, 422))

    def test_names_cannot_be_sprayed_and_nobody_chooses_their_address(self) -> None:
        made = "username=f'nobody-{n}', ip_address='127.0.0.1', failures_since_start=1"
        tried = f"[AccessAttempt.objects.create({made}) for n in range({MOST_FROM_AN_ADDRESS})]"
        self.house.python(f"from axes.models import AccessAttempt; {tried}")
        with self.house.client() as client:
            for number in range(4):
                client.get("/api/v1/session")
                headers = {"X-CSRFToken": client.cookies["csrftoken"], "X-Forwarded-For": f"10.0.0.{number}"}
                given = {"name": f"another-{number}", "password": "wrong"}
                self.assertEqual(client.post("/api/v1/session", json=given, headers=headers).status_code, 429)
        self.house.manage("axes_reset")


class Fairness(Door):
    def test_one_person_at_a_hundred_things_leaves_others_their_turn(self) -> None:
        def ask(_: int) -> int:
            with self.house.client("viewer") as client:
                return client.get("/api/v1/house/archive" if _ % 2 else "/api/v1/floor").status_code

        with ThreadPoolExecutor(80) as many:
            pending = many.map(ask, range(160))
            with self.house.client("supervisor") as other:
                self.assertEqual(other.get("/api/v1/seats").status_code, 200)
            statuses = set(pending)
        self.assertLessEqual(statuses, {200, 403, 429})


class Table(TestCase):
    def test_every_bound_names_an_operation(self) -> None:
        self.assertEqual(route_of("POST", "/api/v1/surveys").limit, LIMITS["bring_survey"])
        self.assertGreater(route_of("POST", "/api/v1/clips").limit, LIMIT_CLIP)
        self.assertGreater(min(LIMITS.values()), ORDINARY)
        self.assertFalse(LONG & {*LIMITS})


class OneAddress(TestCase):
    def test_who_is_refused_again_and_again_waits_and_is_forgiven(self) -> None:
        patience = Patience()
        with patch("time.monotonic") as clock:
            clock.return_value = 100.0
            for _ in range(FREE):
                patience.refused("10.0.0.1")
            self.assertEqual(patience.pause("10.0.0.1"), 0)
            for _ in range(1000):
                patience.refused("10.0.0.1")
            self.assertEqual((patience.pause("10.0.0.1"), patience.pause("10.0.0.2")), (LONGEST, 0))
            clock.return_value += (FREE + LONGEST / STEP) / FORGIVEN
            self.assertEqual(patience.pause("10.0.0.1"), 0)

    def test_it_remembers_so_many_and_no_more(self) -> None:
        patience = Patience()
        for number in range(KNOWN + 10):
            patience.refused(str(number))
        self.assertEqual(len(patience._owed), KNOWN)
