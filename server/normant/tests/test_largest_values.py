"""What a lying seat tells: the largest values of every shape are taken or refused, and no page falls over them."""

import datetime as dt
import json
from collections.abc import Iterator
from typing import Annotated, Any, get_args, get_origin
from unittest.mock import patch

import msgspec
from django.db.models import BigIntegerField

from normant.clearings.models import StoreClearing
from normant.clearings.services import receive_clearing
from normant.clearings.tests.stage import CACHE, Case
from normant.deliveries.models import Delivery, ProjectOnSeat
from normant.stores.models import StoreDay, VolumeNow
from normant_core.base.quantities import LARGEST_TOLD
from normant_core.orders.clearing import Cleared, PlannedStore
from normant_core.orders.kinds import Receipt
from normant_core.seat.survey import Survey

from .extremes import LARGEST
from .pages import assert_pages_answer


def numbers(kind: Any, path: str = "") -> Iterator[tuple[str, int | None]]:
    """Every whole number of a type, by its path, with the largest value that is taken."""
    origin, parts = get_origin(kind), get_args(kind)
    if origin is Annotated:
        bound = next((part.le for part in parts[1:] if isinstance(part, msgspec.Meta) and part.le is not None), None)
        yield from ((path, bound),) if parts[0] is int else numbers(parts[0], path)
    elif parts:
        for part in parts:
            yield from numbers(part, path)
    elif isinstance(kind, type) and issubclass(kind, msgspec.Struct):
        for field in msgspec.structs.fields(kind):
            yield from numbers(field.type, f"{path}.{field.name}")
    elif kind is int and not path.endswith(".value"):  # of a reading, which is kept as it is
        yield path, None


class Shapes(Case):
    def test_no_number_of_a_seat_is_beyond_what_every_reader_keeps(self) -> None:
        for shape in (Survey, PlannedStore, Cleared, Receipt):
            for path, most in numbers(shape):
                with self.subTest(shape=shape.__name__, path=path):
                    self.assertIsNotNone(most)
                    self.assertLessEqual(most or 0, LARGEST_TOLD)


class Pages(Case):
    def assert_pages_answer(self) -> None:
        assert_pages_answer(self, {"clearings": [self.number], "deliveries": [self.delivery]})

    def setUp(self) -> None:
        self.number = 1
        self.delivery = self.delivered().pk

    def test_forty_stores_of_the_largest_size_are_shown_signed_and_exported(self) -> None:
        store = {
            **LARGEST.value(PlannedStore),
            "kind": "source_cache",
            "digest": "ab" * 32,
            "trouble": "",
            "app": "corrow",
        }
        with patch.object(receive_clearing, "_is_as_asked", return_value=True):  # as if it had so many stores
            self.number = self.planned(*[{**store, "folder": f"/x/{place}"} for place in range(40)])
        self.assertEqual(self.plan(self.number)["promised"], 40 * LARGEST_TOLD)
        self.assert_pages_answer()
        self.assertLess(self.sign(self.number).status_code, 500)
        self.assert_pages_answer()

    def test_what_was_stored_before_there_was_a_bound_is_shown(self) -> None:
        with patch.object(receive_clearing, "_is_as_asked", return_value=True):
            self.number = self.planned(*[{**CACHE, "folder": f"/x/{place}"} for place in range(40)])
        ProjectOnSeat.objects.create(seat=self.house.seat, app="corrow", kind="renders", project="one", size=2**62)
        Delivery.objects.update(size=2**62)
        beyond = {"items": 2**62, "size": 2**62}
        planned = {**CACHE, **beyond, "going": 2**62, "going_size": 2**62}
        StoreClearing.objects.update(planned=planned, going=2**62, going_size=2**62, cleared={**beyond, "reasons": []})
        for model in (StoreDay, VolumeNow):
            whole = [field.name for field in model._meta.fields if type(field) is BigIntegerField]
            model.objects.update(**dict.fromkeys(whole, 2**62))
        self.assert_pages_answer()
        self.assertIsInstance(self.get("clearings").json()["items"][0]["promised"], int)

    def test_a_number_beyond_the_bound_is_refused_with_its_place(self) -> None:
        number = self.begun()
        order = self.order("plan_clearing")
        body = {
            "order": str(order.pk),
            "outcome": "done",
            "at": self.now(),
            "planned": [{**CACHE, "going_size": 2**62}],
        }
        path = f"/api/v1/agent/orders/{order.pk}/receipt"
        answer = self.house.agent().post(path, json.dumps(body), "application/json")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("going_size", answer.content.decode())
        self.assertEqual(StoreClearing.objects.filter(of__clearing=number, going__gt=0).count(), 0)

    def now(self) -> str:
        return dt.datetime.now(dt.UTC).isoformat()
