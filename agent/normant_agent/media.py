"""Finished exports, decoded frame by frame. Needs PyAV, which an agent may be without."""

import time
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from normant_core.measure.machine.inspection import SeenFrame, Watch, unallowed, unlike
from normant_core.orders.exports import Deliverable, Flaw, Sound, Specification

from .errors import HostError

# Containers that hold what they show: lists of other files, and of addresses, are not opened.
CONTAINERS = "mov,matroska,mxf,avi,mpegts,mpeg,nut,dv,gxf,flv,asf"
Lines = npt.NDArray[Any]
LARGEST = 1 << 28  # pixels of a frame
EVERY = 8  # lines of a frame of which one is looked at
UNKNOWN = "the file says no rate of frames"


@dataclass(frozen=True, slots=True)
class Inspection:
    """What a file is, how many frames were decoded, and what is wrong with it."""

    deliverable: Deliverable
    decoded: int
    flaws: tuple[Flaw, ...]


def inspect(path: Path, specification: Specification | None = None, *, seconds: float = 3600) -> Inspection:
    """Decode every frame of a file's first picture track.

    Raises HostError for a file that is none, that has no picture, or that takes longer than `seconds`.
    """
    av = library()
    deadline = time.monotonic() + seconds
    try:
        # As a file, whatever its name looks like: addresses and lists are names as well.
        with av.open(f"file:{path}", options={"format_whitelist": CONTAINERS}) as container:
            picture = next(iter(container.streams.video), None)
            if picture is None:
                raise HostError("there is no picture in this file")
            deliverable, rate = _described(container, picture)
            watch = Watch(rate)
            for frame in _frames(av, _until(deadline, container.demux(picture)), picture):
                watch.add(frame)
    except TimeoutError as fault:
        raise HostError(f"{path}: not decoded within {seconds:g} s") from fault
    except HostError as fault:
        raise HostError(f"{path}: {fault}") from fault
    except (av.error.FFmpegError, OSError, ValueError, EOFError) as fault:
        reason = getattr(fault, "strerror", None) or fault
        raise HostError(f"{path}: this cannot be read as picture and sound: {reason}") from fault
    flaws = [*unlike(deliverable, watch, specification), *watch.end()]
    return Inspection(deliverable, watch.decoded, tuple(unallowed(flaws, specification)))


def library() -> Any:
    try:
        import av  # noqa: PLC0415 (an agent may be without it)
    except ImportError as fault:
        raise HostError(
            "looking into pictures needs PyAV, which is not installed here: pip install 'normant-agent[media]'"
        ) from fault
    return av


_FAMILIES = {"h264": "avc", "dnxhd": "vc3", "mpeg2video": "mpeg2"}  # as surveys name them, where they differ


def codec_of(path: Path) -> str:
    """`avc/8/420`: family, bits and chroma of a clip's picture. Raises HostError for what is none."""
    av = library()
    try:
        with av.open(f"file:{path}", options={"format_whitelist": CONTAINERS}) as container:
            picture = next(iter(container.streams.video), None)
            if picture is None:
                raise HostError(f"{path.name}: there is no picture in it")
            described, _ = _described(container, picture)
    except (av.error.FFmpegError, OSError, ValueError, EOFError) as fault:
        raise HostError(f"{path.name}: this is no clip: {getattr(fault, 'strerror', None) or fault}") from fault
    return f"{_FAMILIES.get(described.codec, described.codec)}/{described.bits}/{described.chroma}"


def _described(container: Any, picture: Any) -> tuple[Deliverable, Fraction]:
    context = picture.codec_context
    if context is None:
        raise HostError("nothing here decodes its picture")
    form = context.format
    rate = picture.average_rate or picture.guessed_rate
    if not rate or rate <= 0:
        raise HostError(UNKNOWN)
    if form is None or not 0 < context.width * context.height <= LARGEST:
        raise HostError(f"a frame of {context.width} x {context.height} is not decoded here")
    tracks = [track.codec_context for track in container.streams.audio]
    made = Deliverable(
        container.format.name.split(",")[0],
        context.name,
        context.width,
        context.height,
        f"{rate.numerator}/{rate.denominator}",
        form.components[0].bits,
        _chroma(form, context.width, context.height),
        picture.frames or None,
        _length(container, picture, rate),
        tuple(Sound(track.name, track.channels, track.rate) for track in tracks),
    )
    return made, Fraction(rate.numerator, rate.denominator)


def _length(container: Any, picture: Any, rate: Fraction) -> int | None:
    """How many frames its length would hold; sound that ends a second later than the picture is no fault."""
    if picture.duration is not None:
        return int(picture.duration * picture.time_base * rate) - 1
    if container.duration is None:
        return None
    spare = rate if container.streams.audio else 1
    return round(Fraction(container.duration, 1_000_000) * rate - spare)


def _chroma(form: Any, width: int, height: int) -> str:
    """How finely colour is sampled: `420`, `422`, `444`, `400` without any."""
    if len(form.components) < 3:
        return "400"
    if form.is_rgb:
        return "444"
    across, down = form.chroma_width(width) * 2 <= width + 1, form.chroma_height(height) * 2 <= height + 1
    return {(True, True): "420", (True, False): "422", (False, False): "444"}.get((across, down), "440")


def _frames(av: Any, packets: Iterator[Any], picture: Any) -> Iterator[SeenFrame]:
    """Every frame; a packet that no frame comes of is a damaged one."""
    picture.thread_type = "AUTO"
    last: Lines | None = None
    for frames in _decoded(av, packets):
        if frames is None:
            yield SeenFrame(None, 1.0, same=False, damaged=True)
        for frame in frames or ():
            sample, full = _sample(frame)
            same = last is not None and sample.shape == last.shape and bool(np.array_equal(sample, last))
            moment = None if frame.pts is None else frame.pts * Fraction(frame.time_base)
            yield SeenFrame(moment, float(sample.max(initial=0)) / full, same, bool(frame.is_corrupt))
            last = sample


def _until(deadline: float, packets: Iterator[Any]) -> Iterator[Any]:
    """Packets for as long as there is time. Raises TimeoutError."""
    for packet in packets:
        if time.monotonic() > deadline:
            raise TimeoutError
        yield packet


def _decoded(av: Any, packets: Iterator[Any]) -> Iterator[list[Any] | None]:
    """The frames of each packet; None for one that cannot be decoded, and where the file breaks off."""
    while True:
        try:
            packet = next(packets)
        except (StopIteration, EOFError):
            return
        except av.error.FFmpegError:
            yield None
            return
        try:
            yield packet.decode()
        except (av.error.InvalidDataError, av.error.PatchWelcomeError):
            if packet.size:
                yield None


def _sample(frame: Any) -> tuple[Lines, int]:
    """Some lines of the first plane, and its largest value."""
    plane, bits = frame.planes[0], frame.format.components[0].bits
    kind = np.dtype("<u2") if bits > 8 else np.dtype("u1")
    lines = np.frombuffer(plane, kind).reshape(-1, plane.line_size // kind.itemsize)
    return lines[: plane.height : EVERY, : plane.width].copy(), (1 << bits) - 1
