"""The job `decode`: how many frames of a clip a device decodes in a second. Run as `python -m`, by `child.run`."""

import sys
import time
from pathlib import Path
from typing import Any

from normant_agent.errors import HostError
from normant_agent.jobs.child import answer
from normant_agent.media_library import CONTAINERS, library

SECONDS = 3.0  # of decoding, besides the first pass
LONGEST_PASS = 60.0  # of one
LARGEST = 8192 * 8192  # pixels of a frame
CPU = "cpu"
_KINDS = ("vaapi", "d3d11va", "videotoolbox", "qsv", "cuda")


def decode(path: Path, device: str) -> float:
    """Frames per second of the clip's picture. Raises HostError for what is no clip, or what does not decode it."""
    av = library()
    _one_pass(av, path, device, LONGEST_PASS)  # opens the device, fills caches
    frames, begun = 0, time.monotonic()
    while (spent := time.monotonic() - begun) < SECONDS:
        frames += _one_pass(av, path, device, SECONDS + 1 - spent)
    return frames / spent


def _one_pass(av: Any, path: Path, device: str, seconds: float) -> int:
    deadline, count = time.monotonic() + seconds, 0
    try:
        with av.open(f"file:{path}", options={"format_whitelist": CONTAINERS}, **_on(av, device)) as container:
            picture = next(iter(container.streams.video), None)
            if picture is None:
                raise HostError("there is no picture in this clip")
            if not 0 < picture.width * picture.height <= LARGEST:
                raise HostError(f"frames of {picture.width}x{picture.height} are too large to measure")
            picture.thread_type = "AUTO"
            for _ in container.decode(picture):
                count += 1
                if time.monotonic() > deadline:
                    break
    except HostError:
        raise
    except (av.error.FFmpegError, OSError, RuntimeError, ValueError, EOFError) as fault:
        reason = getattr(fault, "strerror", None) or fault
        raise HostError(f"this clip cannot be decoded by {device}: {reason}") from fault
    if not count:
        raise HostError("the clip holds no frame that can be decoded")
    return count


def _on(av: Any, device: str) -> dict[str, Any]:
    """What `av.open` is told for a device. Raises HostError where the library opens none of its kind."""
    if device == CPU:
        return {}
    offered = av.codec.hwaccel.hwdevices_available()
    kind = next((kind for kind in _KINDS if kind in offered), None)
    if kind is None:
        raise HostError(f"nothing here opens {device}: this seat measures its processor alone")
    node = f"/dev/dri/renderD{128 + int(device[3:] or 0)}" if kind == "vaapi" and device[3:].isdigit() else None
    accelerated = av.codec.hwaccel.HWAccel(device_type=kind, device=node, allow_software_fallback=False)
    return {"hwaccel": accelerated}


if __name__ == "__main__":
    answer(lambda: decode(Path(sys.argv[1]), sys.argv[2]))
