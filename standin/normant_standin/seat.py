"""One simulated seat at work: enrols itself, then runs the agent, over a network that can be unplugged."""

import logging
import os
import threading
from pathlib import Path

import httpx

from normant_agent import identity
from normant_agent.agent import Agent, Pace
from normant_agent.door import Door, enrol
from normant_agent.errors import DoorError, HostError, JournalError
from normant_agent.identity import Identity
from normant_agent.journal import Journal
from normant_core.orders.kinds import Progress, SignedOrder
from normant_core.seat.survey import Survey

from .host import StandInHost
from .machine import Machine

log = logging.getLogger(__name__)
PACE = Pace(look=0.6, care=5.0, retry=1.0, failed=1.0, wait=20, longest=3.0)
POWER_LOST = 9  # exit status of a process whose machine lost its power


class Cable(httpx.HTTPTransport):
    """The network of a machine: nothing passes while it is unplugged."""

    def __init__(self, folder: Path) -> None:
        super().__init__()
        self._folder = folder

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        """Raises ConnectError while the machine is offline, also for an answer that comes too late."""
        self._check(request)
        answer = super().handle_request(request)
        if request.method == "POST" and Machine.load(self._folder).hands_in_twice:
            answer.read()
            answer.close()
            answer = super().handle_request(request)
        self._check(request)
        return answer

    def _check(self, request: httpx.Request) -> None:
        if not Machine.load(self._folder).online:
            raise httpx.ConnectError("the network cable is out", request=request)


class StandInJournal(Journal):
    """The agent's memory, on a disk that may be full."""

    def __init__(self, folder: Path, host: StandInHost) -> None:
        super().__init__(folder)
        self._host = host

    def _write(self, path: Path, content: bytes) -> None:
        try:
            self._host.needs_room(path.name)
        except HostError as fault:
            raise JournalError(f"the agent cannot keep a journal: {fault}") from fault
        super()._write(path, content)


class StandInAgent(Agent):
    """The agent, on a machine whose power may go at a step of an order, and whose cable may come out."""

    host: StandInHost

    def __init__(self, host: StandInHost, identity: Identity, state: Path, door: Door, pace: Pace) -> None:
        super().__init__(host, identity, state, door, pace)
        self.journal = StandInJournal(state, host)

    def _fetched(self) -> tuple[SignedOrder, ...]:
        self.host.hold("ordered")
        return super()._fetched()

    def _send_receipts(self) -> None:
        if self.journal.unsent():
            self.host.hold("receipt")
        super()._send_receipts()

    def _hand_in(self, survey: Survey) -> None:
        """Hand it in; the scenario unplugs one seat afterwards."""
        self.host.hold("survey")
        super()._hand_in(survey)
        if Machine.load(self.host.folder).unplugged_after_survey:
            with self.host.changed() as machine:
                machine.online, machine.unplugged_after_survey = False, False

    def _look(self, stop: threading.Event) -> None:
        """Look, after the editor did what they are used to do."""
        self.host.put_back_by_habit()
        super()._look(stop)

    def _report(self, order: str, progress: Progress) -> None:
        super()._report(order, progress)
        self.host.hold(progress.step)
        if Machine.load(self.host.folder).loses_power_at == progress.step:
            with self.host.changed() as machine:
                machine.loses_power_at = ""
            os._exit(POWER_LOST)


def run(folder: Path, server: str, code: str, stop: threading.Event) -> None:
    """Work until `stop` is set; `code` is redeemed where the seat is not enrolled yet."""
    host, cable, state = StandInHost(folder), Cable(folder), folder / "agent"
    while not stop.is_set():
        try:
            known = _identity(state, server, code, cable)
            break
        except DoorError as fault:
            log.warning("not enrolled", extra={"seat": folder.name, "reason": str(fault)})
            stop.wait(1)
    else:
        return
    StandInAgent(host, known, state, Door(known, transport=cable), PACE).run(stop)


def _identity(state: Path, server: str, code: str, cable: Cable) -> Identity:
    if not (state / "identity.json").exists():
        identity.save(state, enrol(server, code, transport=Cable(cable._folder)))
    return identity.load(state)
