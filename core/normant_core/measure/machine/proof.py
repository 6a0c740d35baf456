"""Whether a GPU that is set to work did: a run's samples against what the settings say."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

import msgspec

from ...base.quantities import Value
from ...base.wording import listed, opening
from ...orders.samples import GPU, PROCESSOR, Samples, mean_of
from ...seat.facts import Facts, Gpu
from ...seat.survey import Key

ROSE = 0.10  # of a GPU's time above what is usual at rest: it was at work
BUSY = 0.85  # of the processor: it does what the GPU should
EFFECTS, PROJECT, DECODE = "engine.effects", "project.engine", "engine.decode"


class Proof(msgspec.Struct, frozen=True):
    """One expected use of a device, whether it was seen, and where not why that may be, the likeliest first."""

    use: str
    device: str
    seen: Literal["seen", "not seen", "not told by this system"]
    causes: tuple[str, ...]
    sentence: str


@dataclass(frozen=True, slots=True)
class Ran:
    """A run: its samples, the machine, the readings that held during it, and the codec of its clip, if it had one."""

    samples: Samples
    facts: Facts
    readings: Mapping[Key, Value]
    codec: str = ""

    def value(self, setting: str) -> str:
        """Of the first application that has it; empty where none does."""
        return next((str(value) for (name, _), value in self.readings.items() if name == setting), "")


def proofs(ran: Ran) -> list[Proof]:
    """Every use of a GPU that the settings promise."""
    return [_proof(ran, use, gpu) for use, gpu in _promised(ran)]


def _promised(ran: Ran) -> Iterator[tuple[str, Gpu]]:
    """Effects, on the first GPU whose interface does them (one that is switched on before others), and decoding."""
    gpus = sorted(ran.facts.gpus or (), key=lambda gpu: gpu.enabled is False)
    interface, decoder = ran.value(EFFECTS), ran.value(DECODE)
    working = next((gpu for gpu in gpus if interface in (gpu.interfaces or ())), next(iter(gpus), None))
    if interface not in ("", "cpu") and working:
        yield f"effects by {interface}", working
    yield from (("decoding", gpu) for gpu in gpus if gpu.id == decoder)


def _proof(ran: Ran, use: str, gpu: Gpu) -> Proof:
    busy, what = mean_of(ran.samples, f"{GPU}{gpu.id}"), f"{opening(use)} on {gpu.id}"
    if busy is None:
        sentence = f"{what}: this system does not report its load."
        return Proof(use, gpu.id, "not told by this system", (), sentence)
    rest = ran.samples.rest.get(f"{GPU}{gpu.id}", 0.0)
    if busy - rest >= ROSE:
        sentence = f"{what}: seen, busy for {busy:.0%} of the run, {rest:.0%} idle."
        return Proof(use, gpu.id, "seen", (), sentence)
    processor = mean_of(ran.samples, PROCESSOR) or 0.0
    sentence = f"{what}: not seen, busy for {busy:.0%} of the run"
    if processor <= BUSY:
        return Proof(use, gpu.id, "not seen", (), f"{sentence}.")
    causes = tuple(_causes(ran, gpu))
    sentence = f"{sentence}, while the processor was at {processor:.0%}. Likely causes: {listed(causes)}."
    return Proof(use, gpu.id, "not seen", causes, sentence)


def _causes(ran: Ran, gpu: Gpu) -> Iterator[str]:
    project, effects = ran.value(PROJECT), ran.value(EFFECTS)
    likely = (
        (project not in ("", effects), f"the project's own engine is {project}"),
        (gpu.driver.version is None, "no driver"),
        (True, "not used by this edition of the application"),
        (ran.codec not in ("", *(gpu.decode or ())), f"it cannot decode {ran.codec}"),
        (gpu.enabled is False, "switched off in firmware"),
        (effects not in ("", *(gpu.interfaces or ())), f"it does not support {effects}"),
    )
    return (cause for holds, cause in likely if holds)
