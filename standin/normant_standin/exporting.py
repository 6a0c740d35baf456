"""What a simulated application exports: a real small file of picture, written bit by bit."""

import time
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

FRAMES, RATE, WIDTH, HEIGHT = 25, 25, 160, 90
PARTS = 20


def write_export(path: Path, seconds: float) -> None:
    """A bar that wanders, one second of it; its bytes come in PARTS, over so many seconds."""
    made = path.with_name(f".{path.name}.made{path.suffix}")
    _encode(made)
    content = made.read_bytes()
    made.unlink()
    size = -(-len(content) // PARTS)
    with path.open("wb", buffering=0) as file:
        for part in range(PARTS):
            file.write(content[part * size : (part + 1) * size])
            time.sleep(seconds / PARTS)


def _encode(path: Path) -> None:
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("ffv1", rate=RATE)
        stream.width, stream.height, stream.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        for number in range(FRAMES):
            picture = np.full((HEIGHT, WIDTH, 3), 60, np.uint8)
            picture[:, number * 5 :][:, :12] = 220
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24").reformat(format="yuv420p")
            frame.pts, frame.time_base = number, Fraction(1, RATE)
            container.mux(stream.encode(frame))
        container.mux(stream.encode())
