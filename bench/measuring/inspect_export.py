"""Looking into an export, frame by frame, against decoding it alone."""

import statistics
import tempfile
import time
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from normant_agent.media import inspect as look_into

from ..measure import Figure

WIDTH, HEIGHT, FRAMES = 1280, 720, 250
TIMES, LEAST = 5, 0.8


def inspect() -> Figure:
    """Frames per second of both; a smooth picture that moves, as exports are."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "a.mov")
        _export(path)
        rounds = [(_taken(_bare, path), _taken(_looked, path)) for _ in range(TIMES)]
    bare, ours = (FRAMES / statistics.median(column) for column in zip(*rounds, strict=True))
    ratio = statistics.median(theirs / looked for theirs, looked in rounds)
    against = f"of {bare:.0f}/s decoded alone; {WIDTH}x{HEIGHT}"
    return Figure("inspect", ours, "/s", against, ratio, f"at least {LEAST:g} x", ratio >= LEAST)


def _export(path: Path) -> None:
    across, down = np.meshgrid(np.arange(WIDTH), np.arange(HEIGHT))
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("libx264", rate=25)
        stream.width, stream.height, stream.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        for number in range(FRAMES):
            light = 128 + 90 * np.sin((across + 3 * number) / 90) * np.cos(down / 70)
            frame = av.VideoFrame.from_ndarray(np.repeat(light[..., None], 3, 2).astype(np.uint8), format="rgb24")
            frame.pts, frame.time_base = number, Fraction(1, 25)
            container.mux(stream.encode(frame))
        container.mux(stream.encode())


def _taken(work: object, path: Path) -> float:
    begun = time.perf_counter()
    assert callable(work)
    assert work(path) == FRAMES
    return time.perf_counter() - begun


def _bare(path: Path) -> int:
    with av.open(str(path)) as container:
        container.streams.video[0].thread_type = "AUTO"
        return sum(1 for _ in container.decode(video=0))


def _looked(path: Path) -> int:
    made = look_into(path)
    assert not made.flaws, made.flaws
    return made.decoded
