"""A timeline on the seats of a house: what its sources are, and what each seat was measured to do."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from fractions import Fraction

import msgspec

from ...seat.facts import Facts, Gpu
from .routes import CPU
from .timeline import Placed, Profile, Rates, SeatLoads, Work

ANY_GPU = "gpu"


class Media(msgspec.Struct, frozen=True):
    """What a source is: its codec as surveys name it, and its frame in pixels."""

    codec: str
    width: int
    height: int

    @property
    def label(self) -> str:
        """`hevc/10/422 3840x2160`"""
        return f"{self.codec} {self.width}x{self.height}"

    @property
    def pixels(self) -> int:
        """Of one frame."""
        return self.width * self.height


@dataclass(frozen=True, slots=True)
class DecodeRate:
    """Frames per second that a device decoded of a codec, at a frame of so many pixels."""

    codec: str
    device: str
    rate: float
    pixels: int


def rates_of(
    facts: Facts,
    decoded: Iterable[DecodeRate],
    media: Iterable[Media],
    effects: Mapping[str, Mapping[str, float]],
    scale: Fraction = Fraction(1),
) -> Rates:
    """What one seat does of these media and effects, where it was measured or the house says it.

    A frame of four times the pixels takes four times as long to decode: that is an assumption. Effects name `cpu`,
    `gpu` (any that is enabled) or the model of one; at a `scale` of 1/2 they have a quarter of the pixels to draw.
    """
    measured = list(decoded)
    decode = {
        kind.label: {
            rate.device: rate.rate * rate.pixels / kind.pixels for rate in measured if rate.codec == kind.codec
        }
        for kind in media
    }
    gpus = [gpu for gpu in facts.gpus or () if gpu.enabled is not False]
    drawn = {name: _on_devices(devices, gpus, float(1 / scale**2)) for name, devices in effects.items()}
    return Rates(decode, drawn)


def _on_devices(devices: Mapping[str, float], gpus: Iterable[Gpu], faster: float) -> dict[str, float]:
    """A model counts before `gpu`."""
    rates = {CPU: devices[CPU] * faster} if CPU in devices else {}
    for gpu in gpus:
        rate = devices.get(gpu.model or "", devices.get(ANY_GPU))
        if rate:
            rates[gpu.id] = rate * faster
    return rates


def without_gpu_form(effects: Mapping[str, Mapping[str, float]], used: Iterable[str]) -> list[str]:
    """Those of the effects that only a processor draws."""
    return sorted({name for name in used if name in effects and not effects[name].keys() - {CPU}})


class Played:
    """A timeline whose sources are known; those that are not are `unknown`, and not counted."""

    def __init__(
        self, placed: Iterable[Placed], end: Fraction, rate: Fraction, media: Mapping[str, Media], proxy: Media
    ) -> None:
        """`proxy` is what a proxy of the house is."""
        self.end, self.rate, self.media, self.proxy = end, rate, media, proxy
        self.placed, unknown = list[Placed](), set[str]()
        for part in placed:
            if part.work.kind == "decode" and part.work.name not in media:
                unknown.add(part.work.name)
            else:
                self.placed.append(part)
        self.unknown = sorted(unknown)
        self.used = sorted({part.work.name for part in self.placed if part.work.kind == "effects"})

    def kinds(self) -> set[Media]:
        """Of every source, and of proxies."""
        return {self.media[part.work.name] for part in self.placed if part.work.kind == "decode"} | {self.proxy}

    def labelled(self, part: Placed, proxied: frozenset[str] = frozenset()) -> Placed:
        """The same, called by what kind of source it is."""
        work = part.work
        if work.kind == "effects":
            return part
        kind = self.proxy if work.name in proxied else self.media[work.name]
        return replace(part, work=Work("decode", kind.label, work.speed))

    def profile(self, proxied: Iterable[str] = (), *, at_each_cut: bool = False) -> Profile:
        """What is due in each stretch, with proxies for some sources."""
        chosen = frozenset(proxied)
        return Profile([self.labelled(part, chosen) for part in self.placed], self.end, at_each_cut=at_each_cut)

    def unmeasured(self, profile: Profile, rates: Rates) -> list[str]:
        """Kinds of sources, and effects, that nobody has a rate of on this seat: they count as nothing."""
        return sorted({work.name for work in profile.works if not rates.fastest(work)})

    def on(self, profile: Profile, rates: Rates) -> SeatLoads:
        """On one seat."""
        return profile.on(rates, self.rate)
