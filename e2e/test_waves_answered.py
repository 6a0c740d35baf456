"""What the person at a seat is told of a rollout, and what becomes of their answer."""

import datetime as dt
import json
import re
import subprocess
import sys
from typing import Any

from playwright.sync_api import expect

from .houses import REPOSITORY, eventually
from .stage import Journey

SETTING, APP = "safety.autosave_every", "corrow"


class Answered(Journey):
    role = "editor"
    seats = ("pan-03",)

    def setUp(self) -> None:
        """Corrow is open with unsaved work on pan-03, and a rollout waits for it."""
        super().setUp()
        self.demo.standin("busy", "pan-03")
        self.addCleanup(self.demo.standin, "idle", "pan-03")
        self.demo.standin("open", "pan-03", APP)
        self.demo.standin("change", "pan-03", SETTING, "25 min", "--app", APP)
        finding = eventually(self._finding)
        with self.demo.api() as api:
            body: dict[str, Any] = {"findings": [finding]}
            seen = api.post("/rollouts/plan", json=body).json()["digest"]
            self.number = api.post("/rollouts", json={**body, "seen": seen}).json()["id"]

    def _finding(self) -> int | None:
        open_ = self.demo.answer("/findings?status=open&seat=pan-03&limit=1000")["items"]
        return next((f["id"] for f in open_ if (f["setting"], f["app"]) == (SETTING, APP)), None)

    def test_it_is_put_off_objected_to_and_done_all_the_same(self) -> None:
        self.page.get_by_role("link", name="My seat").click()
        planned = self.page.locator(f"[data-planned='{self.number}']")
        expect(planned).to_contain_text("Corrow is open with unsaved work")
        expect(planned).to_contain_text("Save your work and close Corrow when convenient")
        planned.get_by_role("button", name="for an hour").click()
        expect(planned.locator("[data-when]")).to_contain_text("Postponed at the seat until")
        planned.get_by_role("button", name="Object").click()
        planned.get_by_label("What is the problem?").fill("the screening of reel 3 runs until five")
        self.check_accessible()
        planned.get_by_role("button", name="Send to the supervisor").click()
        expect(planned.locator("[data-when]")).to_contain_text("Somebody at the seat objects: the screening of reel 3")
        self.assertEqual(self.demo.answer(f"/rollouts/{self.number}")["legs"][0]["troubled"], True)

        with self.demo.api() as api:
            api.post(f"/rollouts/{self.number}/seats/pan-03/go-ahead")
        self.demo.standin("idle", "pan-03")
        expect(self.page.locator(f"[data-done='{self.number}']")).to_contain_text("Autosave interval: 10 min")
        self._verify_report()

    def _verify_report(self) -> None:
        """The report and the whole ledger, as anybody may verify them on another machine."""
        with self.demo.api() as api:
            report, ledger = self.demo.run / "report.json", self.demo.run / "ledger.ndjson"
            report.write_bytes(api.get(f"/rollouts/{self.number}/report?form=json").content)
            ledger.write_bytes(api.get("/ledger/whole").content)
        report_body = json.loads(report.read_bytes())
        change = report_body["seats"][0]["changes"][0]
        self.assertEqual((change["outcome"], change["read_back"]), ("done", change["after"]))
        command = [sys.executable, "-m", "normant_agent.cli", "ledger", "verify", str(ledger), "--report", str(report)]
        done = subprocess.run(command, check=True, capture_output=True, text=True, cwd=REPOSITORY)
        self.assertRegex(done.stdout, re.compile(rf"the chain is whole\n.*rollout {self.number}, written down"))


class Asked(Journey):
    seats = ("pan-03",)

    def test_a_question_is_shown_at_the_seat_and_ends_once_the_editor_closed_it(self) -> None:
        self.demo.standin("busy", "pan-03")
        self.addCleanup(self.demo.standin, "idle", "pan-03")
        self.demo.standin("open", "pan-03", APP)
        self.go("/seats/pan-03")
        self.page.get_by_role("button", name="Ask editor").click()
        sheet = self.page.get_by_role("dialog")
        sheet.get_by_label("Request").select_option("corrow")
        sheet.get_by_label("Reason").fill("It has leaked since noon.")
        self.check_accessible()
        sheet.get_by_role("button", name="Send request").click()
        expect(self.page.get_by_role("status").filter(has_text="request sent")).to_be_visible()
        planned = self.demo.answer("/seats/pan-03/planned")
        self.assertEqual([question["why"] for question in planned["asked"]], ["It has leaked since noon."])
        self.demo.standin("close", "pan-03", APP)
        eventually(lambda: not self.demo.answer("/seats/pan-03/planned")["asked"])


def _booked_now() -> bytes:
    """A calendar that began an hour ago and lasts three more."""
    now = dt.datetime.now(dt.UTC)
    lines = [
        "BEGIN:VCALENDAR",
        "VERSION:2.0",
        "PRODID:-//brinehouse//EN",
        "BEGIN:VEVENT",
        "UID:1",
        "DTSTAMP:20260101T000000Z",
        "SUMMARY:Comp review",
        f"DTSTART:{now - dt.timedelta(hours=1):%Y%m%dT%H%M%SZ}",
        f"DTEND:{now + dt.timedelta(hours=3):%Y%m%dT%H%M%SZ}",
        "END:VEVENT",
        "END:VCALENDAR",
    ]
    return "".join(f"{line}\r\n" for line in lines).encode()


class Booked(Journey):
    seats = ("rake-04",)

    def test_a_booked_room_keeps_its_seats_from_their_turn_until_it_is_free(self) -> None:
        self.addCleanup(self._forget)
        self.demo.standin("change", "rake-04", "power.profile", "balanced")
        self.go("/rollouts")
        self.page.get_by_text("Room bookings").click()
        room = self.page.locator("[data-room='Rake Room']")
        expect(room).to_be_visible()
        room.get_by_label("Upload calendar").set_input_files(
            {"name": "page.ics", "mimeType": "text/calendar", "buffer": b"<html>"}
        )
        expect(self.page.get_by_role("alert")).to_contain_text("not a calendar")
        self.faults.clear()  # the browser tells of the 422
        room.get_by_label("Upload calendar").set_input_files(
            {"name": "rake.ics", "mimeType": "text/calendar", "buffer": _booked_now()}
        )
        expect(room).to_contain_text("now, until")
        self.check_accessible()

        self.go("/seats/rake-04")
        self.page.get_by_role("checkbox", name="Select Power profile").check()
        self.page.keyboard.press("c")
        plan = self.page.get_by_role("dialog")
        expect(plan.locator("[data-order]")).to_contain_text("1 seat in 1 wave.")
        plan.get_by_role("button", name="Start rollout").click()
        expect(self.track("rake-04")).to_contain_text("Rake Room is booked until")
        self._forget()
        expect(self.track("rake-04")).to_have_attribute("data-state", "settled")

    def _forget(self) -> None:
        with self.demo.api() as api:
            if any(room["file"] for room in api.get("/rooms").json()["items"]):
                api.delete("/rooms/calendar", params={"room": "Rake Room"})
