"""What a house has measured moves with it, and what a spoiled archive says of it is told."""

import hashlib
import json
from typing import Any

from normant.dialects.models import Dialect, DialectVersion
from normant.findings.models import Finding
from normant.orders.models import Order
from normant.seats.models import Seat
from normant.standards.models import Edition
from normant.timelines.models import Costs, Timeline
from normant.trials.models import Clip, Run, Trial, TrialSeat
from normant.trials.tests.stage import TrialStage
from normant_core.measure.machine.laid import Laid, LaidWork

from .packing import parts_of, take

EFFECTS = 'format = "normant-effects/1"\n[effects.blur]\ngpu = 90\n'


class Measured(TrialStage):
    def setUp(self) -> None:
        body = b"a clip"
        digest = hashlib.sha256(body).hexdigest()
        Clip.objects.create(name="Mill", codec="avc/8/420", size=6, digest=digest, body=body, kept_by="s")
        laid = Laid("25", "4", (LaidWork("decode", "a.mov"),), ((0, "0", "4"),))
        media = {"a.mov": {"codec": "avc/8/420", "width": 1920, "height": 1080}}
        encoded = json.dumps(
            {"rate": "25", "end": "4", "works": [{"kind": "decode", "name": "a.mov"}], "rows": [[0, "0", "4"]]}
        )
        Timeline.objects.create(
            name="Reel", body=encoded.encode(), media=media, rate=laid.rate, clips=1, seconds=4, digest="0", kept_by="s"
        )
        Costs.objects.create(text=EFFECTS, kept_by="s")
        trial = self.start()
        self.carry_out(trial, GiB8=0.2)
        self.start(seats=["pan-04"])  # still at work

    def empty(self) -> None:
        for model in (
            Order,
            Run,
            TrialSeat,
            Trial,
            Clip,
            Timeline,
            Costs,
            Finding,
            Seat,
            Edition,
            Dialect,
            DialectVersion,
        ):
            model.objects.all().delete()

    def measured_here(self) -> list[Any]:
        trials = self.get("trials")["items"]
        runs = Run.objects.order_by("of__seat__name", "block", "place").values_list("figure", "condition", "thrown")
        return [
            [(trial["title"], trial["sentence"], trial["state"]) for trial in trials if trial["state"] == "ended"],
            [row for row in runs if row[0] is not None],
            list(Clip.objects.values_list("name", "digest")),
            list(Timeline.objects.values_list("name", "media")),
            list(Costs.objects.values_list("text")),
        ]

    def test_it_comes_to_the_same_in_another_house(self) -> None:
        before, parts = self.measured_here(), parts_of(self.house)
        self.empty()
        answer = take(self.house, parts)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(self.measured_here(), before)
        moved = Trial.objects.get(state="halted")
        self.assertEqual(moved.reason, "the house moved")
        self.assertEqual(self.get(f"timelines/{Timeline.objects.get().pk}")["sources"][0]["codec"], "avc/8/420")

    def test_what_is_spoiled_is_told_with_its_part_and_nothing_is_taken_in(self) -> None:
        parts = parts_of(self.house)
        self.empty()
        first_run = json.loads(parts["runs.ndjson"].splitlines()[0])
        first_trial = json.loads(parts["trials.ndjson"].splitlines()[0])
        clip = next(name for name in parts if name.startswith("clips/"))
        spoiled = {
            "runs.ndjson": [
                {**first_run, "figure": -1}, {**first_run, "figure": 1e300}, {**first_run, "figure": "x"},
                {**first_run, "samples": {"every": 0}}, {**first_run, "block": 10**30}, {**first_run, "ended_at": "x"},
                {**first_run, "condition": "nowhere"}, {},
            ],
            "trials.ndjson": [
                {**first_trial, "question": {"kind": "x"}}, {**first_trial, "holds_for": {"x": 1}},
                {**first_trial, "title": "x" * 500}, {**first_trial, "clip": "0" * 64}, {**first_trial, "seats": 3},
            ],
            "timelines.ndjson": [{"name": "x"}, {"laid": {"rate": "1/0"}}],
        }  # fmt: skip
        for part, rows in spoiled.items():
            for row in rows:
                with self.subTest(part, row=str(row)[:80]):
                    answer = take(self.house, {**parts, part: json.dumps(row).encode()})
                    self.assertEqual(answer.status_code, 422, answer.content)
                    self.assertIn(part, answer.json()["detail"])
        self.assertIn("not the clip", take(self.house, {**parts, clip: b"other"}).json()["detail"])
        self.assertEqual(take(self.house, {**parts, "effects.toml": b"\xff"}).status_code, 422)
        self.assertFalse(Seat.objects.exists() or Trial.objects.exists() or Clip.objects.exists())
