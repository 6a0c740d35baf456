"""Lists of files, as seats hand them in and people read them."""

import datetime as dt
import gzip
import hashlib
import json
from collections.abc import Sequence
from typing import Any
from unittest.mock import patch
from urllib.parse import quote

from django.test import SimpleTestCase
from django.utils import timezone
from hypothesis import given
from hypothesis import strategies as st

from normant.clearings import lists
from normant.clearings.jobs import sweep
from normant.clearings.models import FileList, ListPage, ListPart
from normant.clearings.services import read_list
from normant.clearings.services.keep_list import files_in, forget_lists
from normant.common.problems import Problem
from normant.orders.models import Order

from .stage import CACHE, Case

File = dict[str, Any]


def file(number: int, **other: Any) -> File:
    return {"path": f"a/{number}.pk", "size": number, "used": 1.7e9 + number, "production": "", "project": "p", **other}


def lines_of(files: Sequence[Any]) -> bytes:
    return b"".join(json.dumps(listed_file).encode() + b"\n" for listed_file in files)


class Lists(Case):
    def listed(self, files: Sequence[File], **more: Any) -> int:
        """A plan whose first store lists these files, and was asked for them."""
        going, size = len(files), sum(listed_file["size"] for listed_file in files)
        digest = hashlib.sha256(lines_of(files)).hexdigest()
        number = self.planned({**CACHE, "going": going, "going_size": size, "digest": digest, **more})
        answer = self.post(f"clearings/{number}/seats/pan-03/stores/0/list")
        self.assertEqual(answer.status_code, 200, answer.content)
        return number

    def part(self, number: int, body: bytes, order: Order | None = None) -> Any:
        return self.house.agent().post(
            f"/api/v1/agent/orders/{(order or self.order('send_list')).pk}/list/{number}",
            gzip.compress(body),
            "application/x-ndjson",
            headers={"Content-Encoding": "gzip"},
        )

    def arrived(self, files: Sequence[File], **more: Any) -> int:
        """The same, once the seat has handed it in and a worker has read it."""
        number = self.listed(files, **more)
        self.assertEqual(self.part(0, lines_of(files)).status_code, 204)
        self.hand_in(self.order("send_list"))
        sweep()
        return number

    def items(self, number: int, query: str = "") -> Any:
        return self.get(f"clearings/{number}/seats/pan-03/stores/0/items{query}").json()

    def paths(self, number: int, query: str = "") -> list[str]:
        return [item["path"] for item in self.items(number, query)["items"]]

    def test_a_list_is_asked_for_once_and_read_when_all_of_it_is_here(self) -> None:
        files = [file(number) for number in range(5)]
        number = self.listed(files)
        order, path = self.order("send_list"), f"clearings/{number}/seats/pan-03/stores/0/list"
        self.assertEqual(self.post(path).json()["order"], str(order.pk))
        self.assertEqual(self.part(1, lines_of(files[3:])).status_code, 204)
        for _ in range(2):
            self.assertEqual(self.part(0, lines_of(files[:3])).status_code, 204)
        self.assertEqual(self.items(number)["state"], "asked")
        self.hand_in(order, message="2 parts")
        self.assertEqual(self.items(number)["state"], "asked")
        sweep()
        whole = self.items(number)
        self.assertEqual((whole["state"], whole["total"], whole["matching"]), ("whole", 5, 5))
        self.assertEqual(self.part(2, lines_of(files)).status_code, 404)
        self.assertEqual(self.post(path).json()["order"], str(order.pk))
        exported = b"".join(self.get(f"clearings/{number}/seats/pan-03/stores/0/items.ndjson").streaming_content)
        self.assertEqual(
            [json.loads(line)["path"] for line in exported.splitlines()], [listed_file["path"] for listed_file in files]
        )
        FileList.objects.update(asked_at=timezone.now() - dt.timedelta(days=2))
        self.assertEqual((forget_lists(), ListPart.objects.count(), ListPage.objects.count()), (1, 0, 0))
        self.assertEqual(self.items(number)["state"], "none")

    def test_files_stand_in_each_order_page_by_page(self) -> None:
        files = [file(number, used=2e9 - (number * 7) % 40, path=f"{(number * 11) % 40:02}") for number in range(40)]
        with patch.object(read_list, "ON_PAGE", 7), patch.object(lists, "ON_PAGE", 7):
            number = self.arrived(files)
            for sort, key in (
                ("listed", lambda listed_file: 0),
                ("size", lambda listed_file: -listed_file["size"]),
                ("oldest", lambda listed_file: listed_file["used"]),
                ("path", lambda listed_file: listed_file["path"]),
            ):
                expected = [listed_file["path"] for listed_file in sorted(files, key=key)]
                for start in (0, 6, 7, 20, 39, 40):
                    page = self.paths(number, f"?sort={sort}&offset={start}&limit=9")
                    self.assertEqual(page, expected[start : start + 9], (sort, start))

    def test_the_first_files_of_each_order_are_kept_and_a_search_reaches_all(self) -> None:
        files = [file(number) for number in range(50)]
        with patch.object(read_list, "FURTHEST", 8), patch.object(lists, "FURTHEST", 8):
            number = self.arrived(files)
            self.assertEqual(self.paths(number, "?sort=size&limit=100"), [f"a/{n}.pk" for n in range(49, 41, -1)])
            self.assertEqual(self.paths(number, "?search=a/7.pk"), ["a/7.pk"])

    def test_names_are_found_whatever_their_letters_are(self) -> None:
        names = ("Straße/ÄB.mov", "a\u2028b", "tab\there", "b\udcff", 'quote"d\\', "production")
        number = self.arrived([file(n, path=path, production="zed") for n, path in enumerate(names)])
        for search, answered in (
            ("STRASSE", "Straße/ÄB.mov"), ("äb", "Straße/ÄB.mov"), ("\u2028", "a\u2028b"), ("\t", "tab\there"),
            ("\\xff", "b\\xff"), ('"D\\', 'quote"d\\'), ("Production", "production"),
        ):  # fmt: skip
            answer = self.items(number, f"?search={quote(search)}")
            self.assertEqual([item["path"] for item in answer["items"]], [answered], search)
            self.assertEqual((answer["matching"], answer["searched"]), (1, 6))
        self.assertEqual(self.items(number, "?search=zed")["matching"], 0)

    def test_a_search_ends_when_its_time_is_over_and_says_how_far_it_came(self) -> None:
        files = [file(number) for number in range(6)]
        number = self.listed(files)
        for part in range(3):
            self.part(part, lines_of(files[part * 2 : part * 2 + 2]))
        self.hand_in(self.order("send_list"))
        sweep()
        with patch.object(lists, "SEARCHES_SECONDS", 0.0):
            answered = self.items(number, "?search=a/&sort=size")
        self.assertEqual((answered["searched"], answered["matching"], answered["total"]), (2, 2, 6))
        with patch.object(lists, "WAITS_SECONDS", 0.0), lists._searching:
            self.assertEqual(self.items(number, "?search=a/")["title"], "Others search")

    def test_a_list_other_than_the_one_that_was_planned_is_refused(self) -> None:
        files = [file(1), file(2)]
        for handed_in, more, words in (
            ([file(1), file(3)], {}, "has changed since it was planned"),
            ([file(1)], {}, "has changed since it was planned"),
            (files, {"going": 3}, "and not the 3 files"),
            (files, {"going_size": 2}, "and not the 2 files of 2 bytes"),
        ):
            with self.subTest(words=words, more=more):
                number = self.listed(files, **more)
                self.part(0, lines_of(handed_in))
                self.hand_in(self.order("send_list"))
                sweep()
                answer = self.items(number)
                self.assertEqual((answer["state"], answer["items"]), ("refused", []))
                self.assertIn(words, answer["message"])
                self.assertFalse(ListPart.objects.filter(list__store__of__clearing=number).exists())
                self.assertEqual(self.get(f"clearings/{number}/seats/pan-03/stores/0/items.ndjson").status_code, 409)

    def test_a_list_with_a_part_missing_is_refused(self) -> None:
        number = self.listed([file(1), file(2)])
        self.part(1, lines_of([file(2)]))
        self.hand_in(self.order("send_list"))
        sweep()
        self.assertIn("part 0 of the list is missing", self.items(number)["message"])

    def test_more_lines_than_files_were_promised_are_refused_before_they_are_read(self) -> None:
        self.listed([file(1), file(2)])
        answer = self.part(0, b"{}\n" * 600_000)
        self.assertEqual((answer.status_code, answer.json()["title"]), (422, "Not as promised"))
        self.assertEqual(self.part(0, lines_of([file(1)])).status_code, 204)
        self.assertEqual(self.part(1, lines_of([file(2), file(3)])).status_code, 422)
        self.assertEqual(self.part(0, lines_of([file(2)])).status_code, 204)

    def test_a_line_that_is_no_file_is_refused(self) -> None:
        self.listed([file(number) for number in range(9)])
        good = json.dumps(file(1)).encode()
        for bad in (
            b"{}", b"7", b"[" * 100_000, b"x", b"", json.dumps(file(1, path="")).encode(),
            json.dumps(file(1, size=-1)).encode(), json.dumps(file(1, size=1 << 53)).encode(),
            json.dumps(file(1, used=float("nan"))).encode(), json.dumps(file(1, used=float("inf"))).encode(),
            json.dumps(file(1, path="\ud800")).encode(), json.dumps(file(1, used=1e300)).encode(),
            b'{"path": "a", "used": 1, "size": ' + b"9" * 5000 + b"}",
        ):  # fmt: skip
            answer = self.part(0, good + b"\n" + bad + b"\n")
            self.assertEqual((answer.status_code, answer.json()["title"]), (422, "Not a list"), bad[:80])
            self.assertIn("line 2", answer.json()["detail"])
        self.assertEqual(self.part(0, good).status_code, 422)  # without its end
        self.assertFalse(ListPart.objects.exists())

    def test_nobody_hands_in_what_was_not_asked_for(self) -> None:
        self.listed([file(1)])
        self.assertEqual(self.part(0, b"", self.order("plan_clearing")).status_code, 404)
        self.assertEqual(self.part(300, lines_of([file(1)])).status_code, 413)
        other = self.second("pan-04")
        path = f"/api/v1/agent/orders/{self.order('send_list').pk}/list/0"
        self.assertEqual(self.house.agent(other).post(path, b"", "application/x-ndjson").status_code, 404)
        self.assertFalse(ListPart.objects.exists())

    def test_a_seat_that_does_not_answer_or_refuses_is_asked_again(self) -> None:
        number = self.listed([file(1)])
        path = f"clearings/{number}/seats/pan-03/stores/0/list"
        first = str(self.order("send_list").pk)
        FileList.objects.update(asked_at=timezone.now() - dt.timedelta(minutes=11))
        self.assertEqual(self.items(number)["state"], "none")
        second = self.post(path).json()["order"]
        self.assertNotEqual(second, first)
        self.hand_in(Order.objects.get(pk=second), outcome="failed", message="the list is not here any more")
        self.assertEqual((self.items(number)["state"], self.items(number)["message"]),
                         ("refused", "the list is not here any more"))  # fmt: skip
        self.assertNotEqual(self.post(path).json()["order"], second)

    def test_a_list_is_read_once_however_often_a_worker_is_asked(self) -> None:
        number = self.arrived([file(1)])
        file_list = FileList.objects.get()
        read_list.read_list(file_list.pk)
        read_list.read_list(file_list.pk + 1)
        self.assertEqual((self.items(number)["total"], ListPage.objects.count()), (1, 4))

    def test_a_store_of_which_nothing_goes_has_no_list(self) -> None:
        number = self.planned({**CACHE, "going": 0, "digest": ""})
        answer = self.post(f"clearings/{number}/seats/pan-03/stores/0/list")
        self.assertEqual(answer.json()["title"], "Nothing is listed")

    def test_a_seat_that_promises_more_files_than_a_list_holds_is_left_out(self) -> None:
        number = self.planned({**CACHE, "going": 1_000_001})
        self.assertEqual(self.plan(number)["going"], 0)


class Lines(SimpleTestCase):
    @given(st.binary(max_size=60))
    def test_no_line_breaks_its_reader(self, line: bytes) -> None:
        try:
            list(files_in(line + b"\n"))
        except Problem as refused:
            self.assertEqual(refused.status, 422)
