"""What a house knows of its stores moves with it, and nothing that was not so becomes so on the way."""

import datetime as dt
import json
from typing import Any

from django.utils import timezone

from normant.accounts.models import User
from normant.clearings.models import Clearing
from normant.clearings.tests.stage import Case
from normant.deliveries.models import Delivery, EndedProduction
from normant.deliveries.released import delivered_projects
from normant.findings.models import Finding
from normant.orders.models import Order
from normant.projects.models import NightlyLook, Project
from normant.seats.models import Seat
from normant.standards.models import Edition
from normant.standing_care.models import StoppedCare, Turn
from normant.stores.models import StoreDay
from normant.tests.house import survey
from normant_core.care.deliveries import DeliveredProject

from .packing import parts_of, take

MODELS = (
    *(Turn, Clearing, Order, Delivery, EndedProduction, Project, NightlyLook, StoppedCare, StoreDay),
    *(Finding, Seat, Edition),
)
SEEN = {"file": "mill/one.corrow", "items": 3, "missing": 1}
MOVED: tuple[tuple[Any, tuple[str, ...]], ...] = (
    (
        Delivery,
        (
            "project",
            "production",
            "project_app",
            "file",
            "seat__name",
            "digest",
            "proposed_at",
            "signed_at",
            "withdrawn_at",
        ),
    ),
    (EndedProduction, ("name", "key", "ended_at")),
    (Project, ("seat__name", "app", "file", "seen__missing", "seen_at")),
    (NightlyLook, ("production", "storage")),
    (StoppedCare, ("name", "why")),
    (StoreDay, ("seat__name", "volume", "store", "day", "size", "items", "unused")),
)


class Stored(Case):
    def setUp(self) -> None:
        self.house.send(survey())
        by, now = User.objects.get(username="supervisor"), timezone.now()
        seat = Seat.objects.get(name="pan-03")
        file = {
            "seat": seat,
            "app": "tamsel",
            "project_app": "corrow",
            "production": "Mill Lane",
            "size": 9,
            "finished_at": now,
            "proposed_by": "pan-03",
        }
        signed = {"signed_by": by, "signed_at": now}
        for project, more in (
            ("mill", signed),
            ("oil", {}),
            ("salt", {**signed, "withdrawn_by": by, "withdrawn_at": now, "reason": "the wrong cut"}),
        ):
            Delivery.objects.create(project=project, file=f"{project}.mov", digest=project * 8, **file, **more)
        EndedProduction.objects.create(name="Mill Lane", key="milllane", ended_at=now, ended_by=by)
        Project.objects.create(seat=seat, app="corrow", file=SEEN["file"], seen=SEEN, seen_at=now)
        Project.objects.create(app="corrow", file="brought.corrow", seen=SEEN, seen_at=now, brought_by="sal")
        NightlyLook.objects.create(production="Mill Lane", storage="/brine/mill", made_by=by)
        StoppedCare.objects.create(name="Old caches", stopped_by=by, why="the client is here")
        days = ((9, 100, 7, None), (4, 2**40, 9, 2**39))
        for ago, size, items, unused in days:
            figures = {"size": size, "items": items, "unused": unused, "day": (now - dt.timedelta(days=ago)).date()}
            StoreDay.objects.create(seat=seat, volume="fast", store="renders corrow", **figures)
        plan = Clearing.objects.create(title="Old caches", wanted={})
        Turn.objects.create(name="Old caches", meaning="m", sentence="s", opens=now, closes=now, clearing=plan)

    def moved(self) -> list[list[Any]]:
        return [list(model.objects.order_by("pk").values_list(*fields)) for model, fields in MOVED]

    def empty(self) -> None:
        for model in MODELS:
            model.objects.all().delete()

    def test_it_comes_to_the_same_in_another_house(self) -> None:
        before, parts = self.moved(), parts_of(self.house)
        self.empty()
        answer = take(self.house, parts)
        self.assertEqual((answer.status_code, answer.json()["deliveries"]), (200, 3), answer.content)
        self.assertEqual(self.moved(), before)
        self.assertEqual(delivered_projects(), (DeliveredProject("Mill Lane", "mill", "corrow", name_is_unique=True),))
        self.assertEqual(Delivery.objects.get(project="mill").signed_by.username, "administrator")  # who vouches for it
        (plan,) = map(json.loads, parts["clearings.ndjson"].splitlines())
        self.assertEqual((plan["standing_care"], plan["state"], Clearing.objects.count()), ("Old caches", "looking", 0))

    def test_an_archive_of_an_earlier_version_has_none_of_it(self) -> None:
        parts = parts_of(self.house)
        self.empty()
        earlier = {name: part for name, part in parts.items() if name in ("register.csv", "floor.json")}
        earlier |= dict.fromkeys(("editions.ndjson", "dialects.ndjson", "readings.ndjson"), b"")
        answer = take(self.house, earlier)
        self.assertEqual((answer.status_code, answer.json()["deliveries"]), (200, 0), answer.content)

    def test_what_is_spoiled_is_told_with_its_part_and_nothing_is_taken_in(self) -> None:
        parts = parts_of(self.house)
        self.empty()
        first = {
            name: json.loads(part.splitlines()[0]) for name, part in parts.items() if name.endswith("ndjson") and part
        }
        delivery, project, figures = (first[f"{name}.ndjson"] for name in ("deliveries", "projects", "store_days"))
        spoiled: dict[str, list[Any]] = {
            "deliveries": [{**delivery, "size": 10**30}, {**delivery, "project": "x" * 500}, {}, {**delivery, "signed_at": "x"}],
            "ended_productions": [{"name": "x" * 500, "ended_at": delivery["finished_at"]}, {"name": 3, "ended_at": None}],
            "projects": [{**project, "seen": {"x": 1}}, {**project, "file": "f" * 4000}, {**project, "seen_at": "2026-01-01"}],
            "nightly_looks": [{"production": "x" * 500, "storage": ""}, {"production": None}],
            "stopped_care": [{"name": "x" * 500, "why": ""}, {"name": "x"}],
            "store_days": [
                {**figures, "days": [["2026-11-01", -1, 0, 0]]}, {**figures, "days": [["2026-11-01", 10**30, 0, 0]]},
                {**figures, "days": [["x", 1, 0, 0]]}, {**figures, "days": [[]]}, {**figures, "days": 3},
                {**figures, "days": [["2026-11-01", 1, 0, 0]] * 2}, {**figures, "volume": "v" * 500}, {"seat": []},
            ],
        }  # fmt: skip
        for name, rows in spoiled.items():
            for row in rows:
                with self.subTest(name, row=str(row)[:80]):
                    answer = take(self.house, {**parts, f"{name}.ndjson": json.dumps(row).encode()})
                    self.assertEqual(answer.status_code, 422, answer.content)
                    self.assertIn(name, answer.json()["detail"])
        self.assertEqual([model for model in MODELS if model.objects.exists()], [])
