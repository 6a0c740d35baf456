"""Clearing a store of a seat: through the API and the agents' door."""

import datetime as dt
import json
from typing import Any
from uuid import uuid4

from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.ledger.models import Entry
from normant.orders.jobs import forget_files
from normant.orders.models import Order
from normant.tests.house import House
from normant_core.orders.kinds import ClearStore, Item, parse_order

STORE, FOLDER = "store.source_cache.path", "/home/edit/corrow/cache"
LAST = dt.datetime(2026, 1, 5, tzinfo=dt.UTC)
ITEMS = (Item("a/1.pk", 700, LAST), Item("a/2.pk", 200, LAST))


class Clearing(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()

    def post(self, path: str, body: Any, role: Role = Role.SUPERVISOR) -> Any:
        return (self.house.browser(role) if path == "clear" else self.house.client(role)).post(
            f"/api/v1/seats/pan-03/stores/{path}", json.dumps(body), "application/json"
        )

    def answer(self, order: str) -> Any:
        return self.house.client().get(f"/api/v1/seats/pan-03/stores/{order}").json()

    def look(self, **more: Any) -> str:
        order: str = self.post("look", {"app": "corrow", "setting": STORE, **more}).json()["order"]
        return order

    def hand_in(self, order: str, **fields: Any) -> Any:
        body = json.dumps({"order": order, "outcome": "done", "at": "2026-03-03T08:00:00Z", **fields})
        return self.house.agent().post(f"/api/v1/agent/orders/{order}/receipt", body, "application/json")

    def looked(self) -> str:
        order = self.look()
        items = [{"path": item.path, "size": item.size, "used_at": LAST.isoformat()} for item in ITEMS]
        listing = {"folder": FOLDER, "items": items, "count": 9, "size": 5000, "unused": 2, "unused_size": 900}
        self.hand_in(order, listed=listing)
        return order

    def test_the_stores_that_may_be_cleared_are_told(self) -> None:
        [store] = self.house.client().get("/api/v1/seats/pan-03/stores").json()["items"]
        self.assertEqual((store["app"], store["setting"], store["folder"]), ("corrow", STORE, FOLDER))
        self.assertGreater(store["size"], store["unused"])

    def test_what_was_listed_is_signed_but_what_is_kept(self) -> None:
        listing = self.look()
        self.assertFalse(self.answer(listing)["told"])
        self.assertEqual(self.post("clear", {"order": listing}).json()["title"], "Nothing was listed")
        listing = self.looked()
        self.assertEqual(self.answer(listing)["listed"]["unused_size"], 900)
        order = self.post("clear", {"order": listing, "keep": ["a/2.pk"]}).json()["order"]
        action = parse_order(bytes(Order.objects.get(pk=order).body)).action
        self.assertEqual(action, ClearStore("corrow", STORE, FOLDER, ITEMS[:1]))
        again = self.post("clear", {"order": listing})
        self.assertEqual((again.status_code, again.json()["title"]), (409, "Signed already"))
        entry = Entry.objects.get(action="clear store")
        self.assertEqual((entry.detail["files"], entry.detail["bytes"]), (1, 700))
        self.hand_in(order, message="1 files, 700 bytes, removed")
        self.assertEqual(self.answer(order)["message"], "1 files, 700 bytes, removed")

    def test_after_a_day_a_list_is_too_old_to_be_signed(self) -> None:
        listing = self.looked()
        for days, is_kept in ((0.9, True), (1.1, False)):
            Order.objects.filter(pk=listing).update(received_at=timezone.now() - dt.timedelta(days=days))
            forget_files()
            self.assertEqual(self.answer(listing)["listed"] is not None, is_kept)
        self.assertEqual(self.post("clear", {"order": listing}).json()["title"], "Nothing was listed")

    def test_what_nobody_listed_is_not_removed(self) -> None:
        listing = self.looked()
        for title, body in (
            ("Not on the list", {"order": listing, "keep": ["../x"]}),
            ("Nothing to remove", {"order": listing, "keep": ["a/1.pk", "a/2.pk"]}),
            ("No such order", {"order": str(uuid4())}),
        ):
            with self.subTest(title):
                self.assertEqual(self.post("clear", body).json()["title"], title)
        self.assertFalse(Order.objects.filter(kind="clear_store").exists())

    def test_only_stores_that_are_made_again_and_only_by_who_may(self) -> None:
        answer = self.post("look", {"app": "corrow", "setting": "store.backups.path"})
        self.assertEqual((answer.status_code, answer.json()["title"]), (422, "Not cleared"))
        self.assertEqual(self.post("look", {"app": "corrow", "setting": STORE}, Role.VIEWER).status_code, 403)
        self.assertEqual(self.post("look", {"app": "corrow", "setting": STORE, "unused_days": 0}).status_code, 422)

    def test_a_listing_that_nobody_asked_for_is_not_kept(self) -> None:
        order = self.house.client().post("/api/v1/seats/pan-03/survey").json()["order"]
        self.hand_in(order, listed={"folder": "/", "items": [], "count": 0, "size": 0, "unused": 0, "unused_size": 0})
        self.assertNotIn("listed", Order.objects.get(pk=order).receipt or {})
