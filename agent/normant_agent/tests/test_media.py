import json
import sys
import tempfile
from collections.abc import Collection, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any
from unittest import TestCase, mock

import av
import numpy as np
from typer.testing import CliRunner, Result

from normant_agent.cli.program import app
from normant_agent.media import inspect

BLACK = -1


def export(
    path: Path, frames: Sequence[int], *, codec: str = "ffv1", pixels: str = "yuv420p", lost: Collection[int] = ()
) -> Path:
    """A bar that stands elsewhere in each frame, by its number; `lost` frames are left out."""
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream(codec, rate=25)
        stream.width, stream.height, stream.pix_fmt = 96, 64, pixels
        for number, place in enumerate(frames):
            picture = np.full((64, 96, 3), 0 if place == BLACK else 60, np.uint8)
            if place != BLACK:
                picture[:, place * 3 % 88 :][:, :8] = 220
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24").reformat(format=pixels)
            frame.pts, frame.time_base = number, Fraction(1, 25)
            if number not in lost:
                container.mux(stream.encode(frame))
        container.mux(stream.encode())
    return path


class Inspected(TestCase):
    def setUp(self) -> None:
        made = tempfile.TemporaryDirectory()
        self.addCleanup(made.cleanup)
        self.folder = Path(made.name)

    def flaws(self, path: Path) -> list[tuple[str, str, int]]:
        return [(flaw.kind, flaw.at, flaw.frames) for flaw in inspect(path).flaws]

    def run_inspect(self, path: Path, spec: str = "", *words: str) -> Result:
        if spec:
            (self.folder / "spec.toml").write_text(spec)
            words = ("--spec", str(self.folder / "spec.toml"), *words)
        return CliRunner().invoke(app, ["inspect", str(path), *words])

    def test_what_a_file_is(self) -> None:
        made = inspect(export(self.folder / "a.mov", range(10), codec="prores_ks", pixels="yuv422p10le")).deliverable
        self.assertEqual((made.container, made.codec, made.width, made.height), ("mov", "prores", 96, 64))
        self.assertEqual((made.rate, made.bits, made.chroma, made.frames, made.sound), ("25/1", 10, "422", 10, ()))
        for pixels, chroma in (("yuv420p", "420"), ("yuv444p", "444"), ("gray", "400"), ("bgr0", "444")):
            with self.subTest(pixels):
                whole = inspect(export(self.folder / "b.mkv", range(4), pixels=pixels))
                self.assertEqual((whole.deliverable.chroma, whole.flaws, whole.decoded), (chroma, (), 4))

    def test_black_frozen_and_missing_frames_with_their_timecode(self) -> None:
        frames = [*range(20), BLACK, BLACK, *[20] * 8, *range(21, 40)]
        path = export(self.folder / "a.mkv", frames, lost=(45, 46))
        self.assertEqual(
            self.flaws(path),
            [("black", "00:00:00:20", 2), ("frozen", "00:00:00:22", 8), ("missing", "00:00:01:20", 2)],
        )
        self.assertEqual(inspect(path).decoded, len(frames) - 2)

    def test_a_few_frames_alike_are_no_fault(self) -> None:
        self.assertEqual(self.flaws(export(self.folder / "a.mkv", [0, 1, 1, 1, 1, 2, 3])), [])
        self.assertEqual(self.flaws(export(self.folder / "b.mkv", [0, *[1] * 5, 2])), [("frozen", "00:00:00:01", 5)])

    def test_ten_bits_are_black_as_eight_are(self) -> None:
        path = export(self.folder / "a.mov", [0, BLACK, 1], codec="prores_ks", pixels="yuv422p10le")
        self.assertEqual(self.flaws(path), [("black", "00:00:00:01", 1)])

    def test_damaged_frames_are_seen(self) -> None:
        path = export(self.folder / "a.mov", range(50), codec="mpeg4")
        content = bytearray(path.read_bytes())
        middle = len(content) // 2
        content[middle - 200 : middle + 200] = b"\xff" * 400
        path.write_bytes(content)
        self.assertIn("damaged", {kind for kind, _, _ in self.flaws(path)})

    def test_a_file_that_ends_early_is_told(self) -> None:
        path = export(self.folder / "a.mkv", range(60))
        path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
        self.assertEqual([flaw.kind for flaw in inspect(path).flaws], ["length"])

    def test_a_specification_is_held_against_it(self) -> None:
        path = export(self.folder / "a.mkv", [0, BLACK, 1])
        spec = (
            'format = "normant-deliverable/1"\ncodec = "ffv1"\nframes = 3\nrate = "25"\nallow = ["black"]\nbits = 8\n'
        )
        whole = self.run_inspect(path, spec)
        self.assertEqual(
            (whole.exit_code, whole.stdout), (0, "matroska, ffv1 96x64 at 25/1, 8 bits 420, 3 frames: whole\n")
        )
        wrong = self.run_inspect(
            path,
            'format = "normant-deliverable/1"\ncontainer = ["mov", "mxf"]\nwidth = 97\nframes = 4\nchannels = [2, 2]\n',
        )
        self.assertEqual(
            wrong.stdout.splitlines(),
            [
                "matroska, ffv1 96x64 at 25/1, 8 bits 420, 3 frames: 5 problems found",
                "  the container is matroska, expected mov or mxf",
                "  the width is 96, expected 97",
                "  the frames are 3, expected 4",
                "  the tracks of sound have no channels, expected 2 and 2",
                "  00:00:00:01: 1 frame is black",
            ],
        )
        self.assertEqual(wrong.exit_code, 1)
        shown = json.loads(self.run_inspect(path, "", "--format", "json").stdout)
        self.assertEqual((shown["decoded"], shown["flaws"][0]["at"]), (3, "00:00:00:01"))

    def test_what_cannot_be_read_exits_with_two(self) -> None:
        (self.folder / "no.mov").write_bytes(b"no picture")
        (self.folder / "list.m3u8").write_text("#EXTM3U\n#EXTINF:1,\nfile:///etc/hostname\n")
        (self.folder / "concat.mov").write_text("ffconcat version 1.0\nfile '/etc/hostname'\n")
        for name in ("no.mov", "list.m3u8", "concat.mov", "none.mov", "concat:a.mkv", "http://127.0.0.1:9/a.mkv"):
            with self.subTest(name):
                done = self.run_inspect(self.folder / name)
                self.assertEqual((done.exit_code, "cannot be read as picture" in done.stderr), (2, True), done.stderr)
        whole = export(self.folder / "a.mkv", range(30))
        strange = self.folder / "b.mkv"
        strange.write_bytes(whole.read_bytes().replace(b"V_FFV1", b"V_NONE"))
        self.assertIn("b.mkv: nothing here decodes its picture", self.run_inspect(strange).stderr)
        self.assertIn("Invalid value", self.run_inspect(whole, "", "--seconds", "0").stderr)
        with mock.patch("normant_agent.media.time.monotonic", side_effect=iter(range(0, 9000, 100)).__next__):
            self.assertIn("not decoded within 5 s", self.run_inspect(whole, "", "--seconds", "5").stderr)
        for spec in ("format = 1", 'format = "normant-deliverable/1"\nwide = 3', "format ="):
            done = self.run_inspect(whole, spec)
            self.assertEqual((done.exit_code, "spec.toml" in done.stderr), (2, True), done.stderr)

    def test_without_the_library_it_says_so(self) -> None:
        with mock.patch.dict(sys.modules, {"av": None}):
            done = self.run_inspect(self.folder / "a.mkv")
        self.assertEqual((done.exit_code, "needs PyAV" in done.stderr), (2, True))
