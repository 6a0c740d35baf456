import json
import tempfile
import zipfile
from fractions import Fraction
from pathlib import Path
from typing import Any
from unittest import TestCase

import opentimelineio as otio
from opentimelineio.opentime import RationalTime, TimeRange
from typer.testing import CliRunner, Result

from normant_agent.cli.program import app
from normant_timelines.reader import exact_rate

MEDIA = "target_url,codec,width,height\navc.mov,avc/8/420,1920,1080\nhevc.mov,hevc/10/422,1920,1080\n"
RATES = {
    "decode": {"avc/8/420": {"gpu0": 240, "cpu": 60}, "hevc/10/422": {"cpu": 18}},
    "effects": {"blur": {"gpu0": 90}, "key": {"gpu0": 60}},
}


def frames(count: float, rate: float = 25) -> RationalTime:
    return RationalTime(count, rate)


def clip(target: str, count: float = 25, *effects: str, start: float = 0, **more: Any) -> otio.schema.Clip:
    """Frames of a source at 25 a second; `speed` and `enabled` may follow."""
    source = otio.schema.ExternalReference(f"{target}.mov", TimeRange(frames(0), frames(9000)))
    made = otio.schema.Clip(target, source, TimeRange(frames(start), frames(count)))
    made.effects.extend(otio.schema.Effect(name=name, effect_name=name) for name in effects)
    if "speed" in more:
        made.effects.append(otio.schema.LinearTimeWarp(time_scalar=more["speed"]))
    made.enabled = more.get("enabled", True)
    return made


def gap(count: float) -> otio.schema.Gap:
    return otio.schema.Gap(duration=frames(count))


class Load(TestCase):
    def setUp(self) -> None:
        made = tempfile.TemporaryDirectory()
        self.addCleanup(made.cleanup)
        self.folder = Path(made.name)
        (self.folder / "media.csv").write_text(MEDIA)
        (self.folder / "rates.json").write_text(json.dumps(RATES))

    def timeline(self, *tracks: list[otio.core.Composable], rate: float = 25) -> otio.schema.Timeline:
        made = otio.schema.Timeline("t", global_start_time=frames(0, rate))
        for number, items in enumerate(tracks, 1):
            made.tracks.append(otio.schema.Track(f"V{number}", items, kind="Video"))
        return made

    def run_load(self, made: otio.schema.Timeline | str, *words: str, name: str = "t.otio") -> Result:
        text = made if isinstance(made, str) else otio.adapters.write_to_string(made, "otio_json")
        (self.folder / name).write_text(text)
        return self.invoke(name, *words)

    def invoke(self, name: str, *words: str) -> Result:
        options = ("--media", "media.csv", "--rates", "rates.json", "--format", "json")
        paths = [
            word if word.startswith("--") or word == "json" else str(self.folder / word) for word in (*options, *words)
        ]
        return CliRunner().invoke(app, ["timeline", "load", str(self.folder / name), *paths])

    def stretches(self, *tracks: list[otio.core.Composable], rate: float = 25) -> list[dict[str, Any]]:
        done = self.run_load(self.timeline(*tracks, rate=rate))
        self.assertIn(done.exit_code, (0, 1), done.stderr)
        return [json.loads(line) for line in done.stdout.splitlines()]

    def spans(self, shown: list[dict[str, Any]]) -> list[tuple[str, str]]:
        return [(stretch["start"], stretch["end"]) for stretch in shown]

    def test_the_worked_loads(self) -> None:
        first, second, third = self.stretches(
            [clip("avc", 25), clip("hevc", 25, "blur"), clip("hevc", 25, "blur", "key")],
            [gap(25), clip("avc", 25), clip("hevc", 25)],
        )
        self.assertEqual((round(first["loads"]["gpu0"], 3), first["limited_by"], first["frames"]), (0.104, None, 25))
        self.assertEqual(
            (round(second["loads"]["cpu"], 3), second["plays_at"], second["limited_by"]), (1.389, 18.0, "cpu")
        )
        self.assertEqual((round(third["loads"]["cpu"], 3), third["plays_at"]), (2.778, 9.0))
        self.assertEqual(round(third["loads"]["gpu0"], 3), 0.694)

    def test_cuts_between_alike_are_no_edges_and_gaps_are_due_nothing(self) -> None:
        shown = self.stretches([clip("avc"), clip("avc"), gap(50), clip("avc")])
        self.assertEqual(self.spans(shown), [("0/1", "2/1"), ("2/1", "4/1"), ("4/1", "5/1")])
        self.assertEqual((shown[1]["loads"], shown[1]["plays_at"]), ({}, 25.0))

    def test_in_a_transition_both_play(self) -> None:
        dissolve = otio.schema.Transition("d", "SMPTE_Dissolve", frames(5), frames(10))
        shown = self.stretches([clip("avc", 50, start=20), dissolve, clip("hevc", 50, start=20)])
        self.assertEqual(self.spans(shown), [("0/1", "9/5"), ("9/5", "12/5"), ("12/5", "4/1")])
        self.assertEqual([sorted(stretch["loads"]) for stretch in shown], [["gpu0"], ["cpu", "gpu0"], ["cpu"]])

    def test_speed_takes_more_frames_and_a_frozen_frame_none(self) -> None:
        shown = self.stretches([clip("avc", speed=2.0), clip("avc", speed=-0.5), clip("avc", speed=0.0)])
        loads = [round(stretch["loads"].get("gpu0", 0) * 240 / 25, 6) for stretch in shown]
        self.assertEqual(loads, [2, 0.5, 0])

    def test_disabled_clips_and_tracks_and_sound_are_due_nothing(self) -> None:
        made = self.timeline([clip("hevc", enabled=False)], [clip("hevc")])
        made.tracks[1].enabled = False
        made.tracks.append(otio.schema.Track("A1", [clip("hevc", 500)], kind="Audio"))
        done = self.run_load(made)
        self.assertEqual([json.loads(line)["loads"] for line in done.stdout.splitlines()], [{}])

    def test_a_nested_stack_is_trimmed_and_moves_with_its_place(self) -> None:
        inner = otio.schema.Track("inner", [clip("avc", 50), clip("hevc", 50)], kind="Video")
        stack = otio.schema.Stack("s", [inner, clip("avc", 100)], TimeRange(frames(25), frames(50)))
        stack.effects.append(otio.schema.Effect(name="key", effect_name="key"))
        shown = self.stretches([clip("avc", 25), stack])
        self.assertEqual(self.spans(shown), [("0/1", "1/1"), ("1/1", "2/1"), ("2/1", "3/1")])
        self.assertEqual(round(shown[1]["loads"]["gpu0"], 4), round(2 * 25 / 240 + 25 / 60, 4))
        self.assertEqual(
            (round(shown[2]["loads"]["gpu0"], 4), "cpu" in shown[2]["loads"]), (round(25 / 240 + 25 / 60, 4), True)
        )

    def test_what_lies_in_a_faster_stack_passes_sooner(self) -> None:
        inner = otio.schema.Track("inner", [clip("avc", 50), clip("hevc", 50)], kind="Video")
        stack = otio.schema.Stack("s", [inner], TimeRange(frames(0), frames(50)))
        stack.effects.append(otio.schema.LinearTimeWarp(time_scalar=2.0))
        shown = self.stretches([stack])
        self.assertEqual(self.spans(shown), [("0/1", "1/1"), ("1/1", "2/1")])
        self.assertEqual(round(shown[1]["loads"]["cpu"], 3), 2.778)
        stack.effects[0].time_scalar = 0
        self.assertEqual([stretch["loads"] for stretch in self.stretches([stack.deepcopy()])], [{}])

    def test_times_are_exact_at_rates_that_are_none_of_ten(self) -> None:
        source = otio.schema.ExternalReference("avc.mov", TimeRange(frames(0, 24000 / 1001), frames(900, 24000 / 1001)))
        made = otio.schema.Clip("c", source, TimeRange(frames(0, 24000 / 1001), frames(48, 24000 / 1001)))
        (stretch,) = self.stretches([made], rate=24000 / 1001)
        self.assertEqual((stretch["end"], stretch["frames"]), ("1001/500", 48))
        for rate, meant in (
            (23.976, Fraction(24000, 1001)),
            (29.97, Fraction(30000, 1001)),
            (25, 25),
            (24, 24),
            (12.5, Fraction(25, 2)),
        ):
            self.assertEqual(exact_rate(rate), meant)

    def test_what_cannot_be_placed_is_told_with_its_track_and_time(self) -> None:
        backwards = clip("avc")
        backwards.source_range = TimeRange(frames(0), frames(-5))
        lost = otio.schema.Clip("lost", otio.schema.MissingReference(), TimeRange(frames(0), frames(25)))
        still = otio.schema.Clip("still", otio.schema.MissingReference())
        done = self.run_load(
            self.timeline([clip("avc", 25, "grain"), lost, clip("other"), backwards, still, clip("avc")])
        )
        self.assertEqual(
            done.stderr.splitlines(),
            [
                "V1 at 1/1: lost: its media is missing",
                "V1 at 2/1: other: other.mov is not among the media",
                "V1 at 3/1: avc: it ends before it begins",
                "V1 at 3/1: still: it does not say how long it is",
                "the effect grain has no measured rate and is not included",
            ],
        )
        self.assertEqual(json.loads(done.stdout.splitlines()[-1])["start"], "3/1")

    def test_effects_of_the_house(self) -> None:
        (self.folder / "effects.toml").write_text("[effects.grain]\ncpu = 20\n[effects.blur]\ncpu = 1\n")
        done = self.run_load(self.timeline([clip("avc", 25, "grain", "blur")]), "--effects", "effects.toml")
        stretch = json.loads(done.stdout)
        self.assertEqual((done.exit_code, stretch["plays_at"], stretch["limited_by"]), (1, 20.0, "cpu"))
        self.assertEqual(round(stretch["loads"]["gpu0"], 3), round(25 / 240 + 25 / 90, 3))

    def test_bundles_are_read(self) -> None:
        text = otio.adapters.write_to_string(self.timeline([clip("avc")]), "otio_json")
        with zipfile.ZipFile(self.folder / "t.otioz", "w") as bundle:
            bundle.writestr("content.otio", text)
        (self.folder / "t.otiod").mkdir()
        (self.folder / "t.otiod" / "content.otio").write_text(text)
        for name in ("t.otioz", "t.otiod"):
            with self.subTest(name):
                self.assertEqual(json.loads(self.invoke(name).stdout)["frames"], 25)

    def test_what_is_no_timeline_ends_with_a_sentence(self) -> None:
        (self.folder / "bad.otioz").write_bytes(b"PK\3\4 no")
        for name, text, sentence in (
            ("deep.otio", "[" * 300_000, "nested too deep"),
            ("list.otio", "[1, 2]", "expected one timeline"),
            ("cut.otio", '{"OTIO_SCHEMA": "Timeline.1"', "this is no timeline"),
            ("odd.otio", '{"OTIO_SCHEMA": "Timeline.1", "tracks": 7}', "this is no timeline"),
            ("norate.otio", otio.adapters.write_to_string(otio.schema.Timeline("t"), "otio_json"), "no rate above 0"),
        ):
            with self.subTest(name):
                done = self.run_load(text, name=name)
                self.assertEqual((done.exit_code, sentence in done.stderr), (2, True), done.stderr)
        for name, sentence in (
            ("bad.otioz", "no bundle"),
            ("none.otio", "cannot be read"),
            ("none.otiod", "cannot be read"),
        ):
            self.assertIn(sentence, self.invoke(name).stderr)

    def test_rates_that_are_none(self) -> None:
        for document, sentence in (
            ([], 'expected {"decode"'),
            ({"decod": {}}, "unknown part 'decod'"),
            ({"decode": {"avc/8/420": {"gpu0": 0}}}, "decode: avc/8/420: gpu0: expected frames per second above 0"),
            ({"effects": {"blur": 3}}, "effects: blur: expected rates by device"),
            ({"decode": 3}, "decode: expected a table"),
        ):
            with self.subTest(sentence):
                (self.folder / "rates.json").write_text(json.dumps(document))
                done = self.run_load(self.timeline([clip("avc")]))
                self.assertEqual((done.exit_code, sentence in done.stderr), (2, True), done.stderr)
