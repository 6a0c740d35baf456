"""Timelines through the API: kept, read aside, laid on the seats of the house, and mended."""

import io
import json
import zipfile
from typing import Any

import opentimelineio as otio
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from opentimelineio.opentime import RationalTime, TimeRange

from normant.accounts.permissions import Role
from normant.ledger.models import Entry
from normant.seats.models import Seat
from normant.tests.house import House, survey
from normant.timelines.models import Costs, Timeline
from normant.trials.models import Clip, Run, Trial, TrialSeat

MEDIA = "target_url,codec,width,height\navc.mov,avc/8/420,1920,1080\nhevc.mov,hevc/10/422,1920,1080\n"
EFFECTS = 'format = "normant-effects/1"\n[effects.blur]\ngpu = 90\n[effects.grain]\ncpu = 12\n'


def clip(target: str, seconds: float, *effects: str) -> otio.schema.Clip:
    source = otio.schema.ExternalReference(f"{target}.mov", TimeRange(RationalTime(0, 25), RationalTime(90000, 25)))
    made = otio.schema.Clip(target, source, TimeRange(RationalTime(0, 25), RationalTime(seconds * 25, 25)))
    made.effects.extend(otio.schema.Effect(name=name, effect_name=name) for name in effects)
    return made


def written(*items: otio.core.Composable) -> bytes:
    made = otio.schema.Timeline("t", global_start_time=RationalTime(0, 25))
    made.tracks.append(otio.schema.Track("V1", list(items), kind="Video"))
    text: str = otio.adapters.write_to_string(made, "otio_json")
    return text.encode()


REEL = written(clip("avc", 8, "blur"), clip("hevc", 4), clip("avc", 8, "grain"))


class Timelines(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()
        cls.seat = cls.house.seat
        clips = {
            codec: Clip.objects.create(
                name=codec, digest=codec, size=1, codec=codec, width=1920, height=1080, body=b"x", kept_by="s"
            )
            for codec in ("avc/8/420", "hevc/10/422")
        }
        cls.measured(clips["avc/8/420"], "gpu0", 240)
        cls.measured(clips["avc/8/420"], "cpu", 60)
        cls.measured(clips["hevc/10/422"], "cpu", 18)

    @classmethod
    def measured(cls, reference: Clip, device: str, rate: float) -> None:
        """A run that decoded a clip, as trials leave it."""
        question = {"kind": "choice", "job": "decode", "conditions": []}
        user = cls.house.people[Role.SUPERVISOR]
        trial = Trial.objects.create(
            title="d", question=question, seen=f"{reference.codec}{device}", clip=reference, created_by=user
        )
        seat = TrialSeat.objects.create(trial=trial, seat=cls.seat)
        Run.objects.create(of=seat, block=1, place=0, condition=device, figure=rate)

    def keep(self, body: bytes = REEL, role: Role = Role.SUPERVISOR, *, name: str = "Reel 1", **more: Any) -> Any:
        file = SimpleUploadedFile(more.pop("file", "reel.otio"), body)
        return self.house.client(role).post("/api/v1/timelines", {"name": name, "file": file, "media": MEDIA, **more})

    def get(self, path: str) -> Any:
        return self.house.client().get(f"/api/v1/timelines{path}").json()

    def effects(self, text: str = EFFECTS, base: int = 0, role: Role = Role.SUPERVISOR) -> Any:
        body = json.dumps({"text": text, "base": base})
        return self.house.client(role).put("/api/v1/effects", body, "application/json")

    def test_it_is_laid_on_the_seats_with_what_would_mend_it(self) -> None:
        self.assertEqual(self.effects().status_code, 200)
        number = self.keep().json()["id"]
        timeline = self.get(f"/{number}")
        self.assertEqual(
            (timeline["rate"], timeline["seconds"], timeline["clips"], timeline["left"]), ("25", 20, 3, [])
        )
        self.assertEqual([row["target"] for row in timeline["sources"]], ["avc.mov", "hevc.mov"])
        self.assertEqual(
            [(row["name"], row["only_cpu"]) for row in timeline["effects"]], [("blur", False), ("grain", True)]
        )
        [row] = [row for row in timeline["seats"] if row["seat"] == "pan-03"]
        self.assertEqual((row["plays"], row["limited_by"], row["over_seconds"]), (False, "cpu", 12))
        self.assertAlmostEqual(row["worst"], 25 / 12)
        shown = self.get(f"/{number}/seats/pan-03")
        self.assertEqual(shown["edges"], [0, 8, 12, 20])
        self.assertEqual(shown["plays_at"], [25, 18, 12])
        ways = [(way["sentence"], way["size"]) for way in shown["remedies"]]
        self.assertEqual(ways[0], ("1 stretch rendered in advance", 12 * 220_000_000 // 8))
        self.assertIn(("playback at 1/2 and proxies of 1 source", 4 * 36_000_000 // 8), ways)

    def test_another_seat_of_its_class_plays_it_as_that_was_measured(self) -> None:
        other, token = self.house.enrolled("pan-04")
        self.house.send(survey(seat="pan-04"), token)
        Seat.objects.update(hardware_class="tall offline")
        number = self.keep().json()["id"]
        rows = {row["seat"]: row for row in self.get(f"/{number}")["seats"]}
        self.assertEqual((rows[other.name]["by_class"], rows["pan-03"]["by_class"]), (True, False))
        self.assertEqual(rows[other.name]["worst"], rows["pan-03"]["worst"])

    def test_bundles(self) -> None:
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as bundle:
            bundle.writestr("content.otio", REEL)
        self.assertEqual(self.keep(packed.getvalue(), file="reel.otioz").json()["clips"], 3)

    def test_sources_that_nobody_knows_are_named_and_can_be_said_later(self) -> None:
        number = self.keep(media="").json()["id"]
        self.assertEqual([row["codec"] for row in self.get(f"/{number}")["sources"]], ["", ""])
        self.house.client().post(f"/api/v1/timelines/{number}/media", json.dumps({"media": MEDIA}), "application/json")
        self.assertEqual({row["codec"] for row in self.get(f"/{number}")["sources"]}, {"avc/8/420", "hevc/10/422"})
        self.assertEqual(self.keep(media="").json()["id"], number)  # the cut came again; what is known stays
        self.assertEqual({row["codec"] for row in self.get(f"/{number}")["sources"]}, {"avc/8/420", "hevc/10/422"})

    def test_what_is_no_timeline_is_told_and_leaves_nothing(self) -> None:
        deep = b'{"OTIO_SCHEMA":"Stack.1","children":[' * 50_000
        spoiled = {
            b"": "No timeline", b"{}": "No timeline", deep: "No timeline", b"\x00\xff": "No timeline",
            b'{"OTIO_SCHEMA": "Timeline.1", "name": "n"}': "No timeline", written(): "No timeline",
            REEL.replace(b'"rate": 25.0', b'"rate": 1e300'): "No timeline",
            REEL.replace(b'"rate": 25.0', b'"rate": 0.0'): "No timeline",
            REEL.replace(b'"value": 200.0', b'"value": 1e11'): "No timeline",
        }  # fmt: skip
        for body, title in spoiled.items():
            for file in ("reel.otio", "reel.otioz", "../../etc/reel"):
                with self.subTest(body[:40], file=file):
                    answer = self.keep(body, file=file)
                    self.assertEqual((answer.status_code, answer.json()["title"]), (422, title))
        for media in ("target_url,codec\na,b", "no", MEDIA + "avc.mov,x,1,1", MEDIA + "x,y,0,1", MEDIA + "x,y,99999,1"):
            with self.subTest(media):
                self.assertEqual(self.keep(media=media).json()["title"], "No list of sources")
        self.assertEqual(self.keep(name="\x00").status_code // 100, 4)
        self.assertFalse(Timeline.objects.exists())

    def test_a_bundle_that_blows_up_is_read_no_further_than_it_may_be(self) -> None:
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as bundle:
            bundle.writestr("content.otio", bytes(140 << 20))
        answer = self.keep(packed.getvalue(), file="bomb.otioz")
        self.assertIn("larger than", answer.json()["detail"])

    def test_effects_are_written_on_what_was_read(self) -> None:
        first = self.effects().json()["id"]
        self.assertEqual(self.effects(base=0).status_code, 409)
        self.assertEqual(self.effects(EFFECTS + "[proxy]\nmbits = 20\n", base=first).status_code, 200)
        for text in ("", "[effects.blur]\ngpu = 1", 'format = "normant-effects/1"\n[effects.blur]\ngpu = 0', "\x00"):
            with self.subTest(text):
                self.assertEqual(self.effects(text, base=first).json()["title"], "No list of effects")
        self.assertEqual(Costs.objects.count(), 2)
        self.assertEqual(Entry.objects.filter(action="keep effects").count(), 2)

    def test_who_may(self) -> None:
        number = self.keep().json()["id"]
        self.assertEqual(self.keep(role=Role.VIEWER).status_code, 403)
        self.assertEqual(self.effects(role=Role.VIEWER).status_code, 403)
        self.assertEqual(self.house.client(Role.VIEWER).delete(f"/api/v1/timelines/{number}").status_code, 403)
        self.assertEqual(self.house.client(Role.VIEWER).get(f"/api/v1/timelines/{number}").status_code, 200)
        self.assertEqual(self.house.client().delete(f"/api/v1/timelines/{number}").status_code, 204)
        self.assertEqual(self.house.client().get(f"/api/v1/timelines/{number}").status_code, 404)
