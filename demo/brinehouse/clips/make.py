"""Makes the reference clips of Brinehouse: a salt mill that turns, drawn so smoothly that it encodes in seconds.

Run once, with the name of a folder: `python demo/brinehouse/clips/make.py demo/brinehouse/clips`. The files are kept in
the repository, because encoding them takes longer than a start may.
"""

import sys
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import numpy.typing as npt

WIDTH, HEIGHT, RATE, FRAMES = 960, 540, 25, 50
ARMS = 5
CLIPS = (
    ("mill-avc.mov", "libx264", "yuv420p", 1.0, {"crf": "20", "preset": "fast"}),
    ("mill-hevc.mov", "libx265", "yuv422p10le", 1.0, {"crf": "20", "preset": "fast", "x265-params": "log-level=none"}),
    ("mill-ffv1.mkv", "ffv1", "yuv422p10le", 1.0, {"level": "3"}),
    ("mill-proxy.mov", "libx264", "yuv420p", 0.5, {"crf": "26", "preset": "fast"}),
)


def drawn(number: int, width: int, height: int) -> npt.NDArray[np.uint16]:
    """One frame of the mill, red, green and blue in sixteen bits."""
    across, down = np.meshgrid(np.linspace(-1.78, 1.78, width), np.linspace(-1, 1, height))
    angle = np.arctan2(down, across) * ARMS - number / FRAMES * 2 * np.pi
    far = np.hypot(across, down)
    blades = 0.5 + 0.5 * np.tanh(np.cos(angle) * 6) * np.clip(1.05 - far, 0, 1)
    sky = 0.35 + 0.3 * (1 - down) / 2
    picture = np.stack([blades * 0.8 + 0.1, sky * 0.6 + blades * 0.3, sky], axis=-1)
    # Steps of a hundredth: what is flat costs a lossless codec nothing.
    return (np.round(np.clip(picture, 0, 1) * 48) / 48 * 65535).astype(np.uint16)


def main(folder: Path) -> None:
    """Write every clip."""
    for name, codec, form, scale, options in CLIPS:
        width, height = int(WIDTH * scale), int(HEIGHT * scale)
        with av.open(str(folder / name), "w") as container:
            stream = container.add_stream(codec, rate=Fraction(RATE), options=options)
            stream.width, stream.height, stream.pix_fmt = width, height, form
            for number in range(FRAMES):
                frame = av.VideoFrame.from_ndarray(drawn(number, width, height), format="rgb48le")
                container.mux(stream.encode(frame.reformat(format=form)))
            container.mux(stream.encode(None))


if __name__ == "__main__":
    main(Path(sys.argv[1]))
