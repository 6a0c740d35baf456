"""The agent at work: surveys on change and on a heartbeat, orders as they come."""

import contextlib
import logging
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from http import HTTPStatus
from pathlib import Path

import msgspec

from normant_core.base.errors import NormantError
from normant_core.base.structs import learn_structs
from normant_core.dialects.dialect import Dialect, spoken
from normant_core.orders.kinds import (
    CheckProjects,
    InspectExport,
    Order,
    Progress,
    Receipt,
    Refusal,
    SignedOrder,
    bounded,
)
from normant_core.seat.survey import Survey

from .door import Door
from .errors import AgentError, DoorError, JournalError, Refused, Waiting
from .exports import new_exports
from .files import write_atomically
from .hosts.host import Host
from .identity import Identity
from .journal import Journal
from .orders.clear_planned import let_go_of_held
from .orders.measuring.held import Holding
from .orders.measuring.meter import put_trial_back
from .orders.runner import Runner
from .orders.seal import open_dialects, open_order, refusal
from .orders.work import Work
from .preferences.fence import Fence
from .preferences.visit import preference_files, take_survey
from .spool import Spool
from .store_surveys import StoreSurveys
from .trouble import Trouble

log = logging.getLogger(__name__)
NO_FENCE = Fence()
COUNTS = 20.0  # seconds at a time in which stores are counted


@dataclass(frozen=True, slots=True)
class Pace:
    """Seconds between looks at the files, between acts of `care`, between tries of a waiting order, and after a
    failure: each further one waits twice as long, up to `longest`."""

    look: float = 2.0
    care: float = 300.0
    retry: float = 15.0
    failed: float = 5.0
    wait: int = 25
    longest: float = 60.0


class Agent:
    """One seat's agent. Three threads share the host: one surveys, one carries out orders, one does what takes long."""

    def __init__(  # noqa: PLR0913 (what an agent is made of)
        self,
        host: Host,
        identity: Identity,
        state: Path,
        door: Door,
        pace: Pace | None = None,
        *,
        fence: Fence = NO_FENCE,
    ) -> None:
        self.host, self.identity, self.door, self.pace = host, identity, door, pace or Pace()
        self.journal, self.spool, self.stores = Journal(state), Spool(state), StoreSurveys(state)
        self.dialects: list[Dialect] = []
        self.fence = fence
        self._unfit = dict[str, str]()  # dialects that are not used, and why
        self._learnt = state / "dialects.json"
        self._touching = threading.Lock()
        self._holding = Holding()
        self._last: Survey | None = None
        self._told: dict[str, Progress] = {}
        self._refused = set[Refusal]()
        self._spoken: list[Dialect] | None = None
        self._seen, self._surveyed = object(), float("-inf")

    def run(self, stop: threading.Event) -> None:
        """Work until `stop` is set."""
        learn_structs()
        with contextlib.suppress(AgentError, NormantError):  # before anybody reads what a trial left set
            self._put_trial_back()
        orders = threading.Thread(target=self._until, args=(stop, self.work_on_orders), name="orders", daemon=True)
        care = threading.Thread(target=self._until, args=(stop, self._take_care), name="care", daemon=True)
        orders.start()
        care.start()
        self._until(stop, self._look)
        orders.join(timeout=self.pace.wait + 5)
        self.door.close()

    def survey(self) -> None:
        """Take a survey and hand it in, after those that could not be handed in before."""
        self._hand_in(self._taken())

    def _taken(self) -> Survey:
        with self._touching:
            if self._holding.held and self._last:  # what is set for a run is no reading: what was told last is told
                return msgspec.structs.replace(self._last, taken_at=self.host.now())
            survey = take_survey(self.host, self.identity.seat, self._known_dialects(), self._unfit)
        if not survey.stores:  # what the machine itself does not tell was counted
            survey = msgspec.structs.replace(survey, stores=self.stores.known())
        self._spoken, self._last = spoken(self.dialects, survey.facts.applications or ()), survey
        return survey

    def _hand_in(self, survey: Survey) -> None:
        """Hand it in; where the server is away it is kept, and the fault goes on to whoever waits."""
        try:
            self._send_kept()
            self.door.send(survey)
        except DoorError as fault:
            if fault.passing:
                self.spool.keep(survey)
            raise

    def _send_kept(self) -> None:
        for path, survey in self.spool.waiting():
            try:
                self.door.send(survey)
            except DoorError as fault:
                if fault.passing:
                    raise
                log.error("kept survey refused", extra={"seat": self.identity.seat, "reason": str(fault)})
            self.spool.forget(path)

    def work_on_orders(self, stop: threading.Event) -> None:
        """Hand in what was left, wait for orders, carry them out, and survey what came of it."""
        try:
            self._put_trial_back()
        except Waiting as why:
            log.warning("a trial waits to be put back", extra={"seat": self.identity.seat, "reason": str(why)})
            stop.wait(self.pace.retry)
            return
        self._send_receipts()
        if not self.door.wait(self.pace.wait):
            return
        waiting = [self._carry_out(signed) for signed in self._fetched() if not stop.is_set()]
        if not all(waiting):
            self.survey()
        if any(waiting):
            stop.wait(self.pace.retry)

    def _fetched(self) -> tuple[SignedOrder, ...]:
        return self.door.orders()

    def _look(self, stop: threading.Event) -> None:
        """Survey when a file or the machine's own settings changed, and on the heartbeat."""
        now = self.host.fingerprint(preference_files(self.host, self._watched()))
        due = time.monotonic() - self._surveyed >= self.identity.heartbeat_seconds
        if due:
            self._fresh_dialects()  # the house may have taught another file meanwhile
        if due or now != self._seen:
            survey = self._taken()
            self._seen, self._surveyed = now, time.monotonic()
            self._hand_in(survey)
        elif self.spool:
            self._send_kept()
        stop.wait(self.pace.look)

    def _take_care(self, stop: threading.Event) -> None:
        """What takes long and waits for nobody: what was held for its day goes, finished exports are told of."""
        with self._touching:
            let_go_of_held(self.host, self.journal)
        self._report_deleted()
        work = self._work()
        if not self.host.tells_stores:
            self.stores.go_on(work, COUNTS)
        for finished, proposed in new_exports(work):
            self.door.propose_export(finished)
            self.journal.keep_proposed(proposed)
        stop.wait(self.pace.care)

    def _report_deleted(self) -> None:
        """Tell the house what became of held files; what it does not take is not told again."""
        for order, deleted in self.journal.unreported():
            try:
                self.door.deleted(order, deleted)
            except DoorError as fault:
                if fault.passing:
                    raise
                log.warning("a deletion was not taken", extra={"order": order, "reason": str(fault)})
            self.journal.reported(order)

    def _watched(self) -> list[Dialect]:
        """The dialects whose files are watched, as the last survey found the applications installed."""
        if self._spoken is None:
            dialects = self._known_dialects()
            self._spoken = spoken(dialects, self.host.see(dialects).facts.applications or ())
        return self._spoken

    def _until(self, stop: threading.Event, step: Callable[[threading.Event], None]) -> None:
        """Step by step until `stop` is set; whatever goes wrong, the next step is tried."""
        trouble = Trouble(step.__name__, self.identity.seat)
        while not stop.is_set():
            try:
                step(stop)
                trouble.over()
            except (AgentError, NormantError) as fault:
                trouble.failed(str(fault))
                stop.wait(trouble.pause(self.pace.failed, self.pace.longest))
            except Exception as fault:
                trouble.failed(f"unforeseen: {type(fault).__name__}: {fault}", unforeseen=True)
                stop.wait(trouble.pause(self.pace.failed, self.pace.longest))

    def _known_dialects(self) -> list[Dialect]:
        return self.dialects or self._fresh_dialects()

    def _carry_out(self, signed: SignedOrder) -> bool:
        """Whether the order has to wait."""
        try:
            order = open_order(signed, key=self.identity.key, seat=self.identity.seat)
        except Refused as why:
            self._refuse(signed, str(why))
            return True
        entry = self.journal.get(order.id)
        if entry and entry.receipt and entry.sent:
            self._refuse(signed, "this order was carried out before; it is answered with its first receipt")
            self._hand_in_receipt(entry.receipt)
            return True
        try:
            # What an export or a project holds is looked into for minutes, and touches nothing: the seat is watched.
            looks = isinstance(order.action, InspectExport | CheckProjects)
            with contextlib.nullcontext() if looks else self._touching:
                Runner(self._work()).run(order)
        except (Waiting, JournalError) as why:
            self._report_waiting(order, Progress(why.step if isinstance(why, Waiting) else "waiting", str(why)))
            return True
        self._told.clear()  # what others of the same rollout wait for is news again, after this one moved on
        self._send_receipts()
        return False

    def _work(self) -> Work:
        dialects = self._fresh_dialects()
        facts = self.host.see(dialects).facts
        installed = spoken(dialects, facts.applications or ())
        doors = self.door.fetch, self.door.list_part
        return Work(self.host, self.journal, self._report, installed, facts, *doors, holding=self._holding)

    def _put_trial_back(self) -> None:
        """What a run left set when this agent, or the power, went away, or was held for too long.

        Raises Waiting while somebody needs it.
        """
        if self._holding.is_live:
            return
        self._holding.forget()
        if self.journal.trial() is None:
            return
        with self._touching:
            if left := put_trial_back(self._work()):
                log.warning(
                    "a trial was put back, but not all of it", extra={"seat": self.identity.seat, "reason": left}
                )

    def _refuse(self, signed: SignedOrder, why: str) -> None:
        """Tell the house once of an order that is none; it may come again and again."""
        message = refusal(signed, why)
        if message not in self._refused:
            log.error("order refused", extra={"seat": self.identity.seat, "order": message.order, "reason": why})
            self.door.refuse(message)
            self._refused.add(message)

    def _fresh_dialects(self) -> list[Dialect]:
        """The house's dialects as it has them now; while it is away, as it had them last."""
        try:
            offered = self.door.dialects()
        except DoorError as fault:
            if not fault.passing:
                raise
            if not self.dialects and self._learnt.exists():
                learnt = msgspec.json.decode(self._learnt.read_bytes(), type=list[Dialect])
                self.dialects = [self.fence.inside(dialect) for dialect in learnt]  # it may be narrower by now
            if not self.dialects:
                raise
            return self.dialects
        trusted, self._unfit = open_dialects(offered, key=self.identity.key)
        self.dialects = [self.fence.inside(dialect) for dialect in trusted]
        payload = msgspec.json.encode(self.dialects)
        if not self._learnt.exists() or self._learnt.read_bytes() != payload:
            write_atomically(self._learnt, payload)
        return self.dialects

    def _report(self, order: str, progress: Progress) -> None:
        """Progress is news, not a condition: what cannot be told now is not told."""
        try:
            self.door.progress(order, progress)
        except DoorError as fault:
            log.info("progress not told", extra={"seat": self.identity.seat, "reason": str(fault)})

    def _report_waiting(self, order: Order, progress: Progress) -> None:
        if self._told.get(order.id) != progress:
            self._report(order.id, progress)
            self._told[order.id] = progress

    def _send_receipts(self) -> None:
        for entry in self.journal.unsent():
            assert entry.receipt
            self._hand_in_receipt(entry.receipt)
            # What a seat's files hold is not kept for longer than it takes to send it.
            receipt = msgspec.structs.replace(entry.receipt, files={})
            self.journal.put(msgspec.structs.replace(entry, receipt=receipt, sent=True))

    def _hand_in_receipt(self, receipt: Receipt) -> None:
        """Whole, or where the house does not take that, in short: no receipt holds up those behind it."""
        try:
            self.door.receipt(receipt)
        except DoorError as fault:
            if fault.status == HTTPStatus.NOT_FOUND:
                return  # an order that the server forgot needs no receipt
            if fault.status not in (HTTPStatus.REQUEST_ENTITY_TOO_LARGE, HTTPStatus.UNPROCESSABLE_ENTITY):
                raise
            outcome = "failed" if receipt.files or receipt.listed else receipt.outcome
            reason = f"the house did not take what was told of this: {fault}"
            self.door.receipt(
                bounded(Receipt(receipt.order, outcome, message=reason, exact=receipt.exact, at=receipt.at))
            )
