import base64
import datetime as dt
import json
import uuid
from typing import Any

from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.dialects.models import Dialect, DialectVersion
from normant.ledger.models import Entry
from normant.orders.jobs import forget_files
from normant.orders.models import Order
from normant.proposals.models import Proposal
from normant.proposals.services.propose import approve
from normant.tests.house import EXAMPLES, House, survey

CORROW = (EXAMPLES / "corrow.dialect.toml").read_text("utf-8")
BEFORE = b"[Play]\nHideWaves=1\n[Window]\nx=4\n"


def packed(raw: bytes) -> dict[str, str]:
    return {"pockle/3/pockle.ini": base64.b64encode(raw).decode()}


class Dialects(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-5))

    def _post(self, path: str, status: int = 200, **body: Any) -> Any:
        answer = self.house.client().post(f"/api/v1/dialects{path}", json.dumps(body), content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def test_every_text_of_a_dialect_is_kept_and_nobody_is_overtaken(self) -> None:
        self.assertEqual(self._post("/keep", text=CORROW + "\n# mine\n", base=1), {"app": "corrow", "number": 2})
        self.assertEqual(self._post("/keep", 409, text=CORROW, base=1)["title"], "Somebody was faster")
        versions = self.house.client().get("/api/v1/dialects/corrow/versions").json()["items"]
        self.assertEqual([(v["number"], v["kept_by"]) for v in versions], [(2, "supervisor"), (1, "test")])

    def test_faults_are_told_with_their_line_and_nothing_is_kept(self) -> None:
        answer = self._post("/keep", 422, text=CORROW.replace("memory.held_back", "memory.held"))
        self.assertEqual(answer["faults"][0]["line"], 17)
        self.assertEqual(DialectVersion.objects.count(), 1)

    def test_a_dialect_is_tried_on_what_a_seat_said_last(self) -> None:
        wrong = CORROW.replace('unit = "MiB"', 'unit = "GiB"', 1).replace(
            "/settings/render/@device", "/settings/render/@gear"
        )
        by_setting = {row["setting"]: row for row in self._post("/try", text=wrong, seat="pan-03")["items"]}
        self.assertEqual(
            (by_setting["memory.held_back"]["native"], by_setting["memory.held_back"]["value"]), ("1536", "1.5 TiB")
        )
        self.assertIn("upload files", by_setting["engine.effects"]["fault"])

    def test_or_on_files(self) -> None:
        text = 'format = "normant-dialect/1"\napp = "pockle"\nversions = ">=3"\n[[file]]\nname = "p"\npath = "pockle/3/pockle.ini"\nformat = "ini"\n[[file.binding]]\nsetting = "playback.waveforms"\nat = "/Play/HideWaves"\nvalues = { 1 = false, 0 = true }\n'
        self.assertEqual(self._post("/try", text=text, files=packed(BEFORE))["items"][0]["value"], "false")
        self.assertEqual(self._post("/try", 422, text=text)["title"], "Nothing to try it on")

    def test_what_was_toggled_is_learnt_and_written(self) -> None:
        after = BEFORE.replace(b"HideWaves=1", b"HideWaves=0").replace(b"x=4", b"x=9")
        lesson = self._post("/teach", before=packed(BEFORE), after=packed(after))
        self.assertEqual([n["why"] for n in lesson["noise"]], ["window place"])
        toggled = lesson["changed"][0]
        self.assertEqual(toggled["candidates"][0]["setting"], "playback.waveforms")
        samples = [{"native": "1", "told": "off"}, {"native": "0", "told": "on"}]
        place = {name: toggled[name] for name in ("file", "at", "format")}
        learnt = self._post("/learn", app="pockle", setting="playback.waveforms", samples=samples, **place)
        self.assertTrue(learnt["sure"] and learnt["why"].startswith("turned round"))
        waits = Proposal.objects.get(pk=self._post("/keep", 202, text=learnt["text"], base=0)["proposal"])
        approve(waits.pk, self.house.people[Role.ADMINISTRATOR], seen=waits.seen)
        self.assertEqual(Dialect.objects.get(app="pockle").number, 1)

    def test_what_cannot_be_learnt_says_why(self) -> None:
        place = {"file": "a.ini", "at": "/x", "format": "ini", "app": "murk"}
        samples = [{"native": "1", "told": "1 GiB"}, {"native": "1", "told": "2 GiB"}]
        answer = self._post("/learn", 422, setting="memory.held_back", samples=samples, **place)
        self.assertIn("several values", answer["detail"])
        self.assertEqual(self._post("/teach", 422, before={"a": "!"}, after={})["title"], "Not base64")


class Watching(TestCase):
    """A seat sends its files for a lesson; its agent's answer is made by hand here."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-5))

    def _watch(self, app: str = "corrow", seat: str = "pan-03", role: Role = Role.SUPERVISOR) -> Any:
        body = json.dumps({"seat": seat})
        return self.house.client(role).post(f"/api/v1/dialects/{app}/watch", body, content_type="application/json")

    def _watched(self, order: object) -> Any:
        return self.house.client().get(f"/api/v1/dialects/watched/{order}")

    def _answer(self, order: str, **fields: Any) -> None:
        receipt = {"order": order, "at": timezone.now().isoformat(), **fields}
        path = f"/api/v1/agent/orders/{order}/receipt"
        self.assertEqual(self.house.agent().post(path, json.dumps(receipt), "application/json").status_code, 204)

    def test_what_a_seat_sends_is_there_for_a_while(self) -> None:
        order = self._watch().json()["order"]
        self.assertEqual(self._watched(order).json(), {"here": False, "files": {}})
        self._answer(order, outcome="done", files=packed(BEFORE))
        self.assertEqual(self._watched(order).json(), {"here": True, "files": packed(BEFORE)})
        self.assertEqual(Entry.objects.filter(action="watch seat", subject="pan-03").count(), 1)
        self.assertNotIn("files", str(list(Entry.objects.values_list("detail", flat=True))))
        forget_files()
        self.assertTrue(self._watched(order).json()["files"])
        Order.objects.update(received_at=timezone.now() - dt.timedelta(hours=2))
        forget_files()
        self.assertEqual(self._watched(order).json()["files"], {})

    def test_a_seat_that_refuses_says_why(self) -> None:
        order = self._watch().json()["order"]
        self._answer(order, outcome="refused", message="the corrow speaks for what is installed here")
        answer = self._watched(order)
        self.assertEqual((answer.status_code, "speaks for" in answer.json()["detail"]), (409, True))

    def test_nobody_else_looks_into_files(self) -> None:
        self.assertEqual(self._watch(role=Role.ASSISTANT).status_code, 403)
        self.assertEqual(self._watch(app="nobody").status_code, 404)
        self.assertEqual(self._watch(seat="pan-99").status_code, 404)
        self.assertEqual(self._watched(uuid.uuid4()).status_code, 404)
        self.assertEqual(self._watched("guessed").status_code, 422)
