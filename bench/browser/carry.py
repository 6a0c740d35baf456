"""How many seats a minute are carried through all states, and how soon a receipt stands on the supervisor's screen."""

import asyncio
import base64
import contextlib
import datetime as dt
import hashlib
import json
import statistics
import threading
import time
from collections.abc import Iterator
from typing import Any

import httpx
from playwright.sync_api import Page, sync_playwright

from normant_core.orders.kinds import SetPowerProfile, SetPreference, parse_order
from normant_core.rollout.schedule import Terms

from ..house import BENCH, enrolled_seats, set_up, with_standard
from ..measure import EXAMPLES, Figure, pace
from ..serving import serving
from .floor import CHROMIUM, FLAGS

CARRIED, SHOWN = 150, 40  # seats
SETTINGS = ("memory.held_back", "power.profile")
A_MINUTE, SCREEN_BAR = 100, 300.0  # seats; milliseconds
WORKED: dict[str, Any] = json.loads((EXAMPLES / "pan-03.survey.json").read_bytes())


class Seat:
    """A stand-in that answers at once: it says that it did what it was told, and its next survey shows it."""

    def __init__(self, name: str, token: str) -> None:
        self.name, self.body = name, {**WORKED, "seat": name}
        self.headers = {"Authorization": f"Bearer {token}"}

    def survey(self) -> dict[str, Any]:
        """As it is now."""
        return {**self.body, "taken_at": dt.datetime.now(dt.UTC).isoformat()}

    def receipts(self, items: list[dict[str, str]]) -> Iterator[dict[str, Any]]:
        """What it says of these orders; from then on it reads as they want it."""
        for item in items:
            order = parse_order(base64.b64decode(item["order"]))
            match order.action:
                case SetPreference(changes=changes):
                    values = {change.setting: change.value for change in changes}
                case SetPowerProfile(profile=profile):
                    values = {"power.profile": profile}
                case _:
                    values = {}
            readings = self.body["readings"]
            self.body["readings"] = [{**r, "value": values.get(r["setting"], r["value"])} for r in readings]
            yield {"order": order.id, "outcome": "done", "at": dt.datetime.now(dt.UTC).isoformat()}

    async def work(self, client: httpx.AsyncClient) -> None:
        """Wait for orders, and carry them out."""
        while True:
            with contextlib.suppress(httpx.TransportError):
                answer = await client.get("/api/v1/agent/wait?seconds=20", headers=self.headers)
                if answer.is_success and answer.json()["orders"]:
                    await self.answer(client)

    async def answer(self, client: httpx.AsyncClient) -> None:
        """Receipts for what waits, then the survey."""
        items = (await client.get("/api/v1/agent/orders", headers=self.headers)).json()["items"]
        for receipt in self.receipts(items):
            await client.post(f"/api/v1/agent/orders/{receipt['order']}/receipt", json=receipt, headers=self.headers)
        (await client.post("/api/v1/agent/survey", json=self.survey(), headers=self.headers)).raise_for_status()


def carry(seats: int) -> list[Figure]:
    """Seats a minute with one worker and with two, and milliseconds from a receipt to the screen (p95)."""
    single, two = _carried(workers=1), _carried(workers=2)
    shown = statistics.quantiles(_shown(), n=20)[18]
    slower = pace()
    needed = A_MINUTE / slower
    bar = f"{A_MINUTE} seats a minute at rest"
    with_one = f"of {needed:.0f} a minute, with one worker, this run {slower:.2f} x as slow"
    return [
        Figure("carried", single, "/min", with_one, single / needed, bar, single >= needed),
        Figure("carried", two, "/min", "of what one carries, with two workers", two / single, bar, two >= needed),
        Figure.paced("receipt", shown, "ms", "p95", SCREEN_BAR),
    ]


def _carried(*, workers: int) -> float:
    stand_ins = _seats("carry", CARRIED)
    with serving(workers) as address, _at_work(address, stand_ins):
        begun = time.monotonic()
        rollout = _start(stand_ins)
        while _left(rollout):
            assert time.monotonic() - begun < 300, "the rollout does not end"
            time.sleep(0.2)
        return len(stand_ins) * 60 / (time.monotonic() - begun)


@contextlib.contextmanager
def _at_work(address: str, stand_ins: list[Seat]) -> Iterator[None]:
    loop = asyncio.new_event_loop()

    async def work() -> None:
        limits = httpx.Limits(max_connections=None)
        async with httpx.AsyncClient(base_url=address, trust_env=False, timeout=60, limits=limits) as client:
            await asyncio.gather(*(stand_in.work(client) for stand_in in stand_ins))

    def run() -> None:
        asyncio.set_event_loop(loop)
        with contextlib.suppress(asyncio.CancelledError):
            loop.run_until_complete(task)

    task = loop.create_task(work())
    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    time.sleep(2)  # all of them wait
    try:
        yield
    finally:
        loop.call_soon_threadsafe(task.cancel)
        thread.join(timeout=10)


def _shown() -> list[float]:
    """A receipt every half second, and for each how long after it was sent the seat's bead stands elsewhere."""
    stand_ins = _seats("shown", SHOWN)
    with serving() as address:
        rollout = _start(stand_ins)
        while not all(map(_ordered, stand_ins)):
            time.sleep(0.2)
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(f"{address}/rollouts/{rollout}")
            page.get_by_label("Name").fill(BENCH)
            page.get_by_label("Password").fill(BENCH)
            page.keyboard.press("Enter")
            page.get_by_role("button", name=f"All {SHOWN} seats").click()
            page.evaluate(_WATCH)
            taken = [_one_shown(page, address, stand_in) for stand_in in stand_ins]
            browser.close()
    return taken


def _one_shown(page: Page, address: str, stand_in: Seat) -> float:
    with httpx.Client(base_url=address, trust_env=False, timeout=60, headers=stand_in.headers) as client:
        receipt = next(stand_in.receipts(client.get("/api/v1/agent/orders").json()["items"]))
        sent = time.time() * 1e3
        client.post(f"/api/v1/agent/orders/{receipt['order']}/receipt", json=receipt)
    page.wait_for_function("seat => window.moved[seat]", arg=stand_in.name)
    page.wait_for_timeout(500)
    return float(page.evaluate("seat => window.moved[seat]", stand_in.name)) - sent


_WATCH = """() => {
    window.moved = {};
    new MutationObserver((all) => {
        for (const { target } of all) window.moved[target.dataset.seat] ??= Date.now();
    }).observe(document, { subtree: true, attributeFilter: ['data-step'] });
}"""


def _seats(prefix: str, count: int) -> list[Seat]:
    """Enrolled, with a first survey that is off norm."""
    set_up()
    from normant.accounts.models import User  # noqa: PLC0415 (after setup)
    from normant.agents.services.hand_in import hand_in  # noqa: PLC0415
    from normant.dialects.services.keep_dialect import keep_dialect  # noqa: PLC0415

    with_standard()
    keep_dialect((EXAMPLES / "corrow.dialect.toml").read_text("utf-8"), BENCH)
    user, _ = User.objects.get_or_create(username=BENCH, defaults={"role": "supervisor"})
    user.set_password(BENCH)
    user.save()
    made = []
    for name, token in enrolled_seats(prefix, count):
        made.append(Seat(name, token))
        hand_in(hashlib.sha256(token.encode()).hexdigest(), json.dumps(made[-1].survey()).encode())
    return made


def _start(stand_ins: list[Seat]) -> int:
    """A rollout to all of them at once."""
    from normant.accounts.models import User  # noqa: PLC0415 (after setup)
    from normant.findings.models import Finding  # noqa: PLC0415
    from normant.plans.services.plan import digest, plan  # noqa: PLC0415
    from normant.rollouts.services.start import start  # noqa: PLC0415

    names = [stand_in.name for stand_in in stand_ins]
    findings = Finding.objects.open().filter(seat__name__in=names, setting__in=SETTINGS)
    chosen = list(findings.select_related("seat").order_by("seat__name"))
    user = User.objects.get(username=BENCH)
    return int(start(user, chosen, seen=digest(plan(chosen)), terms=Terms(canaries=False, halt_after=0)).pk)


def _left(rollout: int) -> bool:
    from normant.rollouts.models import Leg  # noqa: PLC0415 (after setup)

    legs = Leg.objects.filter(rollout=rollout)
    stopped = legs.filter(state="stopped").first()
    assert stopped is None, stopped and stopped.message
    return legs.filter(ended_at=None).exists()


def _ordered(stand_in: Seat) -> bool:
    from normant.orders.models import Order  # noqa: PLC0415 (after setup)

    return Order.objects.filter(seat__name=stand_in.name).exists()
