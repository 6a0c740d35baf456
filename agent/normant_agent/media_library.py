"""PyAV, which an agent may be without, and what a file's name and head say of its codec."""

from fractions import Fraction
from pathlib import Path
from typing import Any

from normant_core.orders.exports import Deliverable, Sound

from .errors import HostError

# Containers that hold what they show: lists of other files, and of addresses, are not opened.
CONTAINERS = "mov,matroska,mxf,avi,mpegts,mpeg,nut,dv,gxf,flv,asf"
LARGEST = 1 << 28  # pixels of a frame
UNKNOWN = "the file says no rate of frames"


def library() -> Any:
    """Return the module `av`. Raises HostError where it is not installed."""
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
            deliverable, _ = described(container, picture)
    except (av.error.FFmpegError, OSError, ValueError, EOFError) as fault:
        raise HostError(f"{path.name}: this is no clip: {getattr(fault, 'strerror', None) or fault}") from fault
    return f"{_FAMILIES.get(deliverable.codec, deliverable.codec)}/{deliverable.bits}/{deliverable.chroma}"


def described(container: Any, picture: Any) -> tuple[Deliverable, Fraction]:
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
