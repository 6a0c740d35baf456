"""The agent at work, with a door that is only a list: what it sends, when, and what it does with refusals."""

import logging
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any
from unittest import TestCase, mock

import msgspec
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

from normant_agent.agent import NO_FENCE, Agent, Pace
from normant_agent.door import Taken
from normant_agent.errors import AgentError, DoorError
from normant_agent.identity import Identity
from normant_agent.orders.seal import SignedDialect
from normant_agent.preferences.fence import Fence
from normant_agent.trouble import Trouble
from normant_core.dialects.dialect import signed_dialect
from normant_core.orders.kinds import Order, Progress, Receipt, Refusal, SendFiles, SignedOrder, SurveyNow, canonical
from normant_core.seat.survey import Survey
from normant_core.tests.waiting import until

from .bench import AFTER, BEFORE, FILE, TEXT, Bench, order

KEY = Ed25519PrivateKey.generate()
QUICK = Pace(look=0.01, retry=0.01, failed=0.01, wait=0)


def sealed(text: str = TEXT, app: str = "corrow", key: Ed25519PrivateKey = KEY) -> SignedDialect:
    """A dialect as a house hands it out."""
    return SignedDialect(app, text, key.sign(signed_dialect(app, text)))


class Door:
    """The server's side: `waiting` orders, and everything that came."""

    def __init__(self) -> None:
        self.surveys: list[Survey] = []
        self.receipts: list[Receipt] = []
        self.refusals: list[Refusal] = []
        self.steps: list[tuple[str, Progress]] = []
        self.waiting: list[SignedOrder] = []
        self.refusal: DoorError | None = None
        self.too_much: DoorError | None = None  # for receipts that tell more than how it ended
        self.known = [sealed()]

    def order(self, given: Order, key: Ed25519PrivateKey = KEY) -> None:
        body = canonical(given)
        self.waiting.append(SignedOrder(body, key.sign(body)))

    def close(self) -> None: ...

    def dialects(self) -> tuple[SignedDialect, ...]:
        return tuple(self.known)

    def list_part(self, order: str, number: int, piece: bytes) -> None:
        raise DoorError("no such list", status=404)

    def fetch(self, what: str, sha256: str, path: Path, most: int) -> None:
        raise DoorError("no such package", status=404)

    def send(self, survey: Survey) -> Taken:
        self._refuse()
        self.surveys.append(survey)
        return Taken(True, len(self.waiting))

    def wait(self, seconds: int) -> int:
        return len(self.waiting)

    def orders(self) -> tuple[SignedOrder, ...]:
        return tuple(self.waiting)

    def progress(self, order: str, progress: Progress) -> None:
        self.steps.append((order, progress))

    def receipt(self, receipt: Receipt) -> None:
        self._refuse()
        if self.too_much and (receipt.files or receipt.results):
            raise self.too_much
        self.receipts.append(receipt)
        self.waiting.clear()

    def refuse(self, refusal: Refusal) -> None:
        self.refusals.append(refusal)

    def _refuse(self) -> None:
        if self.refusal:
            raise self.refusal


def silence_logs(test: TestCase) -> None:
    """Print no log until the test is over: what fails here on purpose is no news."""
    logging.disable(logging.CRITICAL)
    test.addCleanup(logging.disable, logging.NOTSET)


class Dialects(TestCase):
    """Which dialects an agent takes at all."""

    def taken(self, *offered: SignedDialect, fence: Fence = NO_FENCE) -> tuple[list[str], list[str]]:
        """Settings that are read, and what the survey says of dialects."""
        silence_logs(self)
        bench, door = Bench(), Door()
        door.known = list(offered)
        known = Identity("http://127.0.0.1", "pan-03", "t", KEY.public_key().public_bytes_raw())
        Agent(bench, known, bench.root / "agent", door, QUICK, fence=fence).survey()  # type: ignore[arg-type]
        survey = door.surveys[-1]
        return [r.setting for r in survey.readings if r.app], [f"{e.source}: {e.message}" for e in survey.errors]

    def test_one_that_the_house_signed_is_taken(self) -> None:
        readings, errors = self.taken(sealed())
        self.assertIn("memory.held_back", readings)
        self.assertEqual(errors, [])

    def test_none_that_it_did_not(self) -> None:
        stranger = Ed25519PrivateKey.generate()
        for offered in (
            SignedDialect("corrow", TEXT),
            sealed(key=stranger),
            msgspec.structs.replace(sealed(), text=TEXT + "\n# another"),
            msgspec.structs.replace(sealed(), app="pockle"),
            sealed(TEXT, "pockle"),
        ):
            with self.subTest(offered.app):
                readings, errors = self.taken(offered)
                self.assertEqual((readings, len(errors)), ([], 1))

    def test_not_even_the_house_makes_it_read_what_nobody_may(self) -> None:
        for text in (
            TEXT.replace(FILE, "autostart/x.desktop"),
            TEXT.replace("/settings/memory/spare", "/settings/Exec"),
        ):
            readings, errors = self.taken(sealed(text))
            self.assertEqual(readings, [])
            self.assertIn("nobody may", errors[0])

    def test_inside_a_fence_only_what_was_allowed_here_is_touched(self) -> None:
        for words, expected in (["corrow=corrow/"], True), (["corrow=other/"], False), (["pockle=corrow/"], False):
            with self.subTest(words):
                readings, _ = self.taken(sealed(), fence=Fence.of(words))
                self.assertEqual("memory.held_back" in readings, expected)
        for word in ("corrow", "corrow=/etc/", "corrow=../", "=x/"):
            with self.subTest(word), self.assertRaises(AgentError):
                Fence.of([word])


class Work(TestCase):
    def setUp(self) -> None:
        silence_logs(self)
        self.bench, self.door = Bench(), Door()
        self.stop = threading.Event()
        self.agent = self.started()

    def started(self) -> Agent:
        known = Identity("http://here", "pan-03", "token", KEY.public_key().public_bytes_raw(), heartbeat_seconds=3600)
        door: Any = self.door
        return Agent(self.bench, known, Path(self.bench.root) / "agent", door, QUICK)

    def looked_again(self) -> Callable[[], bool]:
        """Whether the agent has looked at its machine three times more than until now."""
        looks, look = list[object](), self.bench.fingerprint

        def noted(*args: Any) -> Any:
            looks.append(args)
            return look(*args)

        self.bench.fingerprint = noted  # type: ignore[method-assign, assignment]
        return lambda: len(looks) > 3

    def work(self) -> None:
        self.agent.work_on_orders(self.stop)

    def test_an_order_is_carried_out_answered_and_surveyed(self) -> None:
        self.door.order(order())
        self.work()
        self.assertEqual(self.bench.path.read_bytes(), AFTER)
        self.assertEqual([r.outcome for r in self.door.receipts], ["done"])
        readings = {r.setting: r.value for r in self.door.surveys[-1].readings}
        self.assertEqual(readings["memory.held_back"], 6554 * 2**20)

    def test_steps_are_told_as_they_come(self) -> None:
        self.door.order(order())
        self.work()
        self.assertEqual([p.step for _, p in self.door.steps], ["checking", "saving", "applying", "reading_back"])

    def test_what_is_no_order_is_told_to_the_house_once_and_not_carried_out(self) -> None:
        forged = order(number="f1")
        self.door.order(forged, Ed25519PrivateKey.generate())
        self.door.order(msgspec.structs.replace(order(number="s1"), seat="loft-01"))
        body = canonical(order(number="u1")).replace(b"set_preference", b"run_a_script")
        self.door.waiting.append(SignedOrder(body, KEY.sign(body)))
        self.door.waiting.append(SignedOrder(b"{not json", KEY.sign(b"{not json")))
        for _ in range(2):
            self.work()
        refusals = [(refusal.order, refusal.why.split(":")[0]) for refusal in self.door.refusals]
        unknown = "this is nothing that an agent does"
        self.assertEqual(
            refusals,
            [
                ("f1", "the signature is not the house's"),
                ("s1", "the order is for loft-01, not for pan-03"),
                ("u1", unknown),
                ("", unknown),
            ],
        )
        self.assertEqual((self.bench.path.read_bytes(), self.door.receipts), (BEFORE, []))

    def test_a_replay_is_told_and_answered_with_the_first_receipt(self) -> None:
        self.door.order(order())
        self.work()
        self.bench.path.write_bytes(BEFORE)
        self.door.order(order())
        self.work()
        self.assertEqual([refusal.order for refusal in self.door.refusals], ["a1"])
        self.assertEqual(self.door.receipts[1], self.door.receipts[0])
        self.assertEqual(self.bench.path.read_bytes(), BEFORE)

    def test_waiting_is_told_once_with_its_reason(self) -> None:
        self.bench.unsaved = True
        self.door.order(order())
        for _ in range(3):
            self.work()
        self.assertEqual([p.step for _, p in self.door.steps], ["waiting"])
        self.assertIn("unsaved work", self.door.steps[0][1].message)
        self.bench.unsaved = False
        self.work()
        self.assertEqual([r.outcome for r in self.door.receipts], ["done"])

    def test_and_again_once_another_order_was_carried_out_meanwhile(self) -> None:
        self.bench.unsaved = True
        self.door.order(order())
        self.door.order(order(SurveyNow(), "s1"))
        self.work()
        self.door.order(order())
        self.work()
        self.assertEqual([number for number, p in self.door.steps if p.step == "waiting"], ["a1", "a1"])

    def test_a_receipt_that_could_not_be_handed_in_is_handed_in_later(self) -> None:
        self.door.order(order())
        self.door.refusal = DoorError("no answer")
        with self.assertRaises(DoorError):
            self.work()
        self.assertEqual(self.bench.path.read_bytes(), AFTER)
        self.door.refusal, self.agent = None, self.started()
        self.work()
        self.assertEqual([(r.order, r.outcome) for r in self.door.receipts], [("a1", "done")])

    def test_a_receipt_for_an_order_that_the_server_forgot_is_dropped(self) -> None:
        self.door.order(order(SurveyNow()))
        self.door.refusal = DoorError("no such order", status=404)
        with self.assertRaises(DoorError):
            self.work()  # the survey is refused, the receipt is not missed
        self.door.refusal = None
        self.door.waiting.clear()
        self.work()
        self.assertEqual(self.door.receipts, [])

    def test_a_receipt_that_the_house_does_not_take_holds_up_none_behind_it(self) -> None:
        for status, given in ((413, order(SendFiles("corrow"), "f1")), (422, order())):
            with self.subTest(status):
                self.setUp()
                self.door.order(given)
                self.door.too_much = DoorError("this address accepts less", status=status)
                self.work()
                (receipt,) = self.door.receipts
                self.assertEqual(receipt.outcome, "failed" if status == 413 else "done")
                self.assertIn("accepts less", receipt.message)
                self.assertEqual((receipt.files, receipt.results), ({}, ()))

    def test_files_that_were_sent_are_not_kept(self) -> None:
        self.door.order(order(SendFiles("corrow")))
        self.work()
        self.assertEqual([list(receipt.files) for receipt in self.door.receipts], [[FILE]])
        journal = b"".join(path.read_bytes() for path in (self.bench.root / "agent").rglob("*") if path.is_file())
        self.assertNotIn(b"files", journal)

    def test_an_order_that_the_house_did_not_sign_is_not_touched(self) -> None:
        self.door.order(order(), Ed25519PrivateKey.generate())
        self.work()
        self.assertEqual((self.door.receipts, self.door.steps), ([], []))
        self.assertNotEqual(self.bench.path.read_bytes(), AFTER)

    def test_surveys_come_on_change_and_not_otherwise(self) -> None:
        runs = threading.Thread(target=self.agent.run, args=(self.stop,))
        runs.start()
        try:
            until(lambda: len(self.door.surveys) == 1)
            until(self.looked_again())
            self.assertEqual(len(self.door.surveys), 1)
            self.bench.path.write_bytes(AFTER)
            until(lambda: len(self.door.surveys) == 2)
        finally:
            self.stop.set()
            runs.join(10)

    def test_what_could_not_be_handed_in_is_handed_in_later_and_in_order(self) -> None:
        before = self.bench.path.read_bytes()
        self.agent.survey()
        self.door.refusal = DoorError("the cable is out")
        for content in (AFTER, AFTER, before):
            self.bench.path.write_bytes(content)
            with self.assertRaises(DoorError):
                self.agent.survey()
        self.door.refusal, self.agent = None, self.started()  # the seat was started anew meanwhile
        self.agent.survey()
        held = [next(r.value for r in s.readings if r.setting == "memory.held_back") for s in self.door.surveys]
        self.assertEqual(held, [1536 * 2**20, 6554 * 2**20, 1536 * 2**20, 1536 * 2**20])
        self.assertEqual(sorted(s.taken_at for s in self.door.surveys), [s.taken_at for s in self.door.surveys])

    def test_a_kept_survey_that_is_refused_does_not_bar_the_way(self) -> None:
        self.door.refusal = DoorError("the cable is out")
        with self.assertRaises(DoorError):
            self.agent.survey()
        self.door.refusal = DoorError("not as expected", status=422)
        with self.assertRaises(DoorError):
            self.agent.survey()
        self.door.refusal = None
        self.agent.survey()
        self.assertEqual(len(self.door.surveys), 1)

    def test_an_agent_that_starts_without_the_server_knows_its_dialects(self) -> None:
        self.agent.survey()
        self.door.dialects = self.door._refuse  # type: ignore[method-assign, assignment]
        self.door.refusal = DoorError("the cable is out")
        self.agent = self.started()
        with self.assertRaises(DoorError):
            self.agent.survey()
        _, survey = next(self.agent.spool.waiting())
        self.assertIn("memory.held_back", [r.setting for r in survey.readings])

    def test_a_dialect_that_the_house_learns_is_read_at_the_next_heartbeat(self) -> None:
        self.door.known = []
        self.agent.identity = msgspec.structs.replace(self.agent.identity, heartbeat_seconds=0)
        runs = threading.Thread(target=self.agent.run, args=(self.stop,))
        runs.start()
        try:
            until(lambda: self.door.surveys)
            self.door.known = [sealed()]
            until(lambda: any(r.setting == "memory.held_back" for r in self.door.surveys[-1].readings))
        finally:
            self.stop.set()
            runs.join(10)

    def test_what_nobody_foresaw_does_not_stop_the_agent(self) -> None:
        broken, self.door.known = self.door.known, None  # type: ignore[assignment]
        failed = self.enterContext(mock.patch.object(Trouble, "failed", autospec=True, side_effect=Trouble.failed))
        runs = threading.Thread(target=self.agent.run, args=(self.stop,))
        runs.start()
        try:
            until(lambda: failed.called)
            self.door.known = broken
            until(lambda: self.door.surveys)
        finally:
            self.stop.set()
            runs.join(10)

    def test_what_cannot_be_sent_is_tried_again(self) -> None:
        self.door.refusal = DoorError("no answer")
        runs = threading.Thread(target=self.agent.run, args=(self.stop,))
        runs.start()
        try:
            until(self.looked_again())
            self.door.refusal = None
            until(lambda: len(self.door.surveys) >= 1)
        finally:
            self.stop.set()
            runs.join(10)

    def test_every_type_is_learnt_before_the_second_thread(self) -> None:
        before, threads = threading.active_count(), list[int]()
        stop = threading.Event()
        stop.set()
        with mock.patch("normant_agent.agent.learn_structs", lambda: threads.append(threading.active_count())):
            self.agent.run(stop)
        self.assertEqual(threads, [before])
