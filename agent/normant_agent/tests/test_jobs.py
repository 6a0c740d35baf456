"""Jobs in a process of their own, and what is sampled beside them."""

import os
import subprocess
import sys
import tempfile
import threading
from fractions import Fraction
from pathlib import Path
from unittest import TestCase

import av
import numpy as np
import psutil

from normant_agent.errors import HostError
from normant_agent.jobs import child
from normant_agent.jobs.sampler import Taker, sampling
from normant_agent.media_library import codec_of
from normant_core.orders import samples as column
from normant_core.tests.waiting import until


def clip(path: Path, *, frames: int = 12, width: int = 320, height: int = 180) -> Path:
    """A grey that grows, as avc/8/420."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=Fraction(25))
        stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
        for number in range(frames):
            picture = np.full((height, width, 3), number * 10 % 255, dtype=np.uint8)
            container.mux(stream.encode(av.VideoFrame.from_ndarray(picture, format="rgb24")))
        container.mux(stream.encode(None))
    return path


class Jobs(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_a_clip_is_decoded_again_and_again(self) -> None:
        path = clip(self.folder / "mill.mov")
        self.assertEqual(codec_of(path), "avc/8/420")
        self.assertGreater(child.run("decode", str(path), "cpu"), 10)

    def test_what_is_no_clip_is_told_in_a_sentence(self) -> None:
        whole = clip(self.folder / "whole.mov").read_bytes()
        for name, content, words in (
            ("text.mov", b"format = 1\n" * 50, "cannot be decoded by cpu"),
            ("cut.mov", whole[: len(whole) // 2], "cannot be decoded by cpu"),
            ("empty.mov", b"", "cannot be decoded by cpu"),
        ):
            with self.subTest(name):
                (self.folder / name).write_bytes(content)
                with self.assertRaisesRegex(HostError, words):
                    child.run("decode", str(self.folder / name), "cpu")
        with self.assertRaisesRegex(HostError, "cannot be decoded by cpu: No such file"):
            child.run("decode", str(self.folder / "gone.mov"), "cpu")

    def test_a_device_that_nothing_opens_is_said(self) -> None:
        path = clip(self.folder / "mill.mov")
        with self.assertRaisesRegex(HostError, "gpu7"):
            child.run("decode", str(path), "gpu7")

    def test_a_job_that_does_not_end_is_ended(self) -> None:
        path = self.folder / "endless.mov"
        os.mkfifo(path)  # opening it waits for a writer that never comes
        with self.assertRaisesRegex(HostError, "took too long"):
            child.run("decode", str(path), "cpu", seconds=2)

    def test_a_volume_tells_its_rate_and_keeps_nothing(self) -> None:
        self.assertGreater(child.run("disk", str(self.folder)), 1_000)
        self.assertEqual(list(self.folder.iterdir()), [])
        with self.assertRaisesRegex(HostError, "cannot be looked at"):
            child.run("disk", str(self.folder / "nowhere"))

    def test_a_job_goes_with_the_agent_that_began_it(self) -> None:
        path = self.folder / "endless.mov"
        os.mkfifo(path)
        agent = subprocess.Popen(
            [sys.executable, "-c", f"from normant_agent.jobs import child; child.run('decode', {str(path)!r}, 'cpu')"]
        )
        job = self._child_of(agent)
        agent.kill()
        agent.wait()
        job.wait(timeout=60)
        self.assertFalse(job.is_running())

    def _child_of(self, agent: "subprocess.Popen[bytes]") -> psutil.Process:
        def bounded() -> psutil.Process | None:
            """The child, once it has read its bounds."""
            return next((job for job in psutil.Process(agent.pid).children() if job.nice() == child.NICEST), None)

        job = until(bounded)
        assert job
        return job


class Samplers(TestCase):
    def test_samples_come_beside_the_work_with_what_was_at_rest(self) -> None:
        with sampling(Taker().take, every=0.02) as made:
            sum(range(10**6))
        samples = made.samples
        self.assertGreaterEqual(len(samples.columns[column.PROCESSOR]), 1)
        self.assertIn(column.MEMORY, samples.rest)
        self.assertTrue(all(0 <= share <= 1 for share in samples.columns[column.PROCESSOR] if share is not None))

    def test_a_gpu_is_told_where_the_system_tells_it(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            device = Path(folder) / "card0" / "device"
            device.mkdir(parents=True)
            (device / "gpu_busy_percent").write_text("62\n")
            (device / "mem_info_vram_used").write_text("1073741824\n")
            (Path(folder) / "card0-HDMI-1").mkdir()
            taken = Taker(cards=Path(folder)).take()
            self.assertEqual((taken["gpu:gpu0"], taken["gpu_memory:gpu0"]), (0.62, 2**30))
            (device / "gpu_busy_percent").write_text("n/a\n")
            self.assertNotIn("gpu:gpu0", Taker(cards=Path(folder)).take())
        self.assertNotIn("gpu:gpu0", Taker(cards=Path(folder)).take())

    def test_a_sampler_ends_with_what_it_watches(self) -> None:
        with self.assertRaises(HostError), sampling(Taker().take, every=0.01):
            raise HostError("no meter")
        self.assertNotIn("sampler", {thread.name for thread in threading.enumerate()})
