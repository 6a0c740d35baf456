"""Stores and projects of a dialect: taught by example, and tried before they are kept."""

import base64
import json
from typing import Any

from django.test import TestCase

from normant.tests.house import EXAMPLES, House, survey

CORROW = (EXAMPLES / "corrow.dialect.toml").read_text("utf-8")
PROJECT = b'<project><media><item id="1" at="/b/a.mov"/><item id="2" at="/b/b.mov"/></media><cut><clip of="2"/></cut></project>'
SAMPLES = [{"path": "salt_ledger/one/a.mkv", "production": "Salt Ledger", "project": "one"}]
FILE = base64.b64encode(PROJECT).decode()
GB = 10**9


class Taught(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        body = survey(minutes=-5)
        folder = {"setting": "store.renders.path", "app": "corrow", "value": "/fast/renders"}
        store = {"purpose": "renders", "app": "corrow", "path": "/fast/renders", "size": 12 * GB, "items": 300}
        store["productions"] = [{"production": "salt_ledger", "size": 9 * GB}]
        cls.house.send({**body, "readings": [*body["readings"], folder], "stores": [store]})

    def _post(self, path: str, status: int = 200, **body: Any) -> Any:
        answer = self.house.client().post(f"/api/v1/dialects{path}", json.dumps(body), content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def test_where_files_belong_is_learnt_written_and_tried(self) -> None:
        learnt = self._post("/learn-store", app="corrow", kind="renders", samples=SAMPLES)
        self.assertTrue(learnt["sure"])
        self.assertTrue(learnt["text"].startswith(CORROW.rstrip()[:200]))
        tried = self._post("/try", text=learnt["text"], paths=["mill/two/b.mkv", "loose.mkv"])["items"]
        rows = [(row["value"], row["fault"]) for row in tried]
        self.assertEqual(
            rows,
            [
                ("mill/two/b.mkv: production mill and project two", ""),
                (None, "loose.mkv: no production or project in its path"),
            ],
        )
        (row,) = (r for r in self._post("/try", text=learnt["text"], seat="pan-03")["items"] if r["at"] == "[[store]]")
        self.assertEqual(row["value"], "/fast/renders: 12 GB in 300 items, mostly salt_ledger")

    def test_a_store_that_a_seat_does_not_name_is_said(self) -> None:
        text = self._post("/learn-store", app="corrow", kind="backups", samples=SAMPLES, text=CORROW)["text"]
        (row,) = (r for r in self._post("/try", text=text, seat="pan-03")["items"] if r["at"] == "[[store]]")
        self.assertEqual((row["value"], row["fault"]), (None, "pan-03 has no folder for it"))

    def test_where_a_project_lists_its_media_is_learnt_written_and_tried(self) -> None:
        learnt = self._post("/learn-project", app="corrow", name="a\\b\\mill.corrow", file=FILE)
        self.assertEqual(
            learnt["learnt"], "/project/media/item, its path at @at, named by its @id at /project/cut/clip/@of"
        )
        tried = self._post("/try", text=learnt["text"], files={"x/mill.corrow": FILE, "x/bad.corrow": "PGE="})["items"]
        rows = {row["file"]: (row["value"], row["fault"]) for row in tried if row["setting"] == "project"}
        self.assertEqual(rows["x/mill.corrow"], ("x/mill.corrow: 2 media items, 1 of them used", ""))
        self.assertIn("damaged XML", rows["x/bad.corrow"][1])

    def test_what_cannot_be_learnt_says_why(self) -> None:
        self.assertIn(
            "say of every path",
            self._post("/learn-store", 422, app="corrow", kind="renders", samples=[{"path": "a"}])["detail"],
        )
        for body in ({"file": "?"}, {"file": base64.b64encode(b"no project").decode()}):
            self.assertTrue(self._post("/learn-project", 422, app="corrow", name="x", **body)["detail"])
        for body in ({"kind": "exports.x"}, {"samples": []}, {"app": "../x"}, {"samples": SAMPLES * 30}):
            self._post("/learn-store", 422, **{"app": "corrow", "kind": "renders", "samples": SAMPLES, **body})
        for text in ("store = 3", "[[store"):
            self._post("/learn-store", 422, app="corrow", kind="renders", samples=SAMPLES, text=text)

    def test_what_nobody_names_a_file_is_refused_and_nothing_falls_over(self) -> None:
        learnt = self._post("/learn-store", app="corrow", kind="renders", samples=SAMPLES)["text"]
        for path in ("\udc80/a.mkv", "\x00/a.mkv", "x/" * 100 + "mill/a.mkv", "\n/a", "(" * 300):
            with self.subTest(path[:20]):
                sample = {"path": path, "production": "mill", "project": "\udc80"}
                for body in (
                    {"app": "corrow", "kind": "renders", "samples": [sample]},
                    {"app": "corrow", "kind": "renders", "samples": [{**sample, "project": ""}]},
                ):
                    self.assertLess(self._status("/learn-store", body), 500)
                self.assertLess(self._status("/try", {"text": learnt, "paths": [path]}), 500)
                self.assertLess(self._status("/try", {"text": learnt, "files": {path: FILE, "a.corrow": FILE}}), 500)
                project = {"app": "corrow", "name": path, "file": FILE, "text": learnt}
                self.assertLess(self._status("/learn-project", project), 500)
        for seat in ("%00", "x" * 65, "%ED%B2%80", "pan-03&seat=pan-04"):
            self.assertLess(self.house.client().get(f"/api/v1/volumes?seat={seat}").status_code, 500)

    def _status(self, path: str, body: dict[str, Any]) -> int:
        answer = self.house.client().post(f"/api/v1/dialects{path}", json.dumps(body), content_type="application/json")
        return answer.status_code
