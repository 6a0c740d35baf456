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
from normant_core.orders.exports import Deliverable, Flaw, Specification

from .errors import HostError
from .media_library import CONTAINERS, described, library

Lines = npt.NDArray[Any]
EVERY = 8  # lines of a frame of which one is looked at


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
            deliverable, rate = described(container, picture)
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
