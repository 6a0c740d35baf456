"""The stand-ins' meter: a small model of how a machine plays, renders, decodes and moves data with its settings.

Each part takes its share of a rate: where effects are worked out, how the system trades speed for power, what previews
may fill, which pictures are drawn on clips, where the cache lies, whether memory is over-committed. A first run finds a
cold cache, and a machine that has worked for a while is a few parts in a hundred slower. Runs scatter around that by
two parts in a hundred. Tests know this truth; trials have to find it.
"""

import math
import random
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from normant_agent.hosts.host import Measured
from normant_core.base.quantities import Value
from normant_core.orders import samples as column
from normant_core.orders.kinds import Job
from normant_core.orders.samples import LIMIT_SAMPLES, gathered
from normant_core.seat.facts import Facts, Gpu

RATE = 50.0  # frames per second, and
SECONDS = 150.0  # of the render, that nothing slows down
SCATTER = 0.02
COLD = 0.85  # of its rate is what a first run has
WARM = 0.04  # of its rate loses a machine that has worked for long
OVERDRAWN = 0.7  # of its rate is what a machine has that fetches memory from the disk
CROWDED = 0.85  # of its rate is what another application has where previews leave it little memory
EVERY = 0.5
_DEVICES = {"cpu": 0.4, "opencl": 0.85, "vulkan": 0.9}
_SLOW_OPENCL = 0.75  # as one maker's driver has it
_PROFILES = {"performance": 1.0, "balanced": 0.9, "power-saver": 0.65}
_PICTURES = {"none": 1.0, "one": 0.99, "ends": 0.92, "strip": 0.985}  # drawn once as a strip, twice at both ends
_ENOUGH = 8 * 2**30  # bytes of previews
_SYSTEM_DISK = 0.85  # of the rate of a disk of its own
_ENCODERS = 4.0  # times as fast as the processor is a GPU that encodes
# Frames per second of 960x540 on a GPU that has the codec, and on one core.
_DECODED = {"avc/8/420": (960.0, 30.0), "hevc/10/422": (720.0, 9.0), "hevc/10/420": (760.0, 11.0)}
_OTHER = (0.0, 22.0)

Readings = Mapping[str, Value]


@dataclass(frozen=True, slots=True)
class Work:
    """One run of the meter: the job, what it reads of the machine, and how long that has worked.

    `codec` and `device` are those of a job of one device, `runs` how often this meter ran since it was switched on.
    """

    job: Job
    facts: Facts
    readings: Readings
    seed: str
    cold: bool = False
    runs: int = 0
    codec: str = ""
    device: str = ""
    volume: str = ""
    beside: str = ""  # the other application whose job this is


def takes(work: Work) -> Callable[[], dict[str, float]]:
    """What is sampled while it works, one sample after the other."""
    draw = random.Random(work.seed)
    return lambda: dict(_busy(work, draw))


def run(work: Work) -> Measured:
    """Seconds of a render, else frames or bytes per second; the same work gives the same run."""
    draw = random.Random(work.seed)
    figure = _figure(work) * draw.lognormvariate(0, SCATTER) * (COLD if work.cold else 1.0)
    figure *= 1 - WARM * (1 - math.exp(-work.runs / 40))
    figure *= CROWDED if work.beside and _share_asked(work.facts, work.readings) > 0.6 else 1.0
    if work.job == "render":
        figure = SECONDS * RATE / figure
    seconds = figure if work.job == "render" else 10.0
    count = min(LIMIT_SAMPLES, round(seconds / EVERY))
    taken = [dict(_busy(work, draw)) for _ in range(count)]
    return Measured(figure, gathered(taken, seconds / count, dict(_at_rest(work))))


def _figure(work: Work) -> float:
    match work.job:
        case "decode":
            return _decoded(work)
        case "disk":
            volume = next((v for v in work.facts.volumes or () if work.volume in (v.id, v.mount)), None)
            return float(volume.read_rate or 1e8) if volume else 1e8
        case "render":
            encoder = _ENCODERS if work.device.startswith("gpu") else 1.0
            return RATE * _speed(work.facts, work.readings) * encoder
    return RATE * _speed(work.facts, work.readings) * _previews(work.facts, work.readings)


def _decoded(work: Work) -> float:
    of_gpu, of_core = _DECODED.get(work.codec, _OTHER)
    gpu = next((gpu for gpu in work.facts.gpus or () if gpu.id == work.device), None)
    if gpu is None or not gpu.enabled or work.codec not in (gpu.decode or ()):
        return float(of_core * (work.facts.cpu.cores or 4) ** 0.8)
    return of_gpu * (1.0 if gpu.kind == "discrete" else 0.55)


def _speed(facts: Facts, readings: Readings) -> float:
    profile = _PROFILES.get(str(readings.get("power.profile", "")), 1.0)
    volume = facts.volume_of(str(readings.get("store.source_cache.path", "")))
    overdrawn = OVERDRAWN if pages(facts, readings) else 1.0
    return _effects(facts, readings) * profile * (_SYSTEM_DISK if volume and volume.system else 1.0) * overdrawn


def _effects(facts: Facts, readings: Readings) -> float:
    interface = str(readings.get("engine.effects", ""))
    working = _working(facts, interface)
    if interface == "opencl" and working and working.model and working.model.startswith("Ostrane"):
        return _SLOW_OPENCL
    return _DEVICES.get(interface, 1.0)


def _working(facts: Facts, interface: str) -> Gpu | None:
    """The GPU that computes by an interface; None where none does."""
    return next((gpu for gpu in facts.gpus or () if gpu.enabled and interface in (gpu.interfaces or ())), None)


def _previews(facts: Facts, readings: Readings) -> float:
    pool = readings.get("memory.preview_pool", _ENOUGH)
    filled = min(1.0, float(pool) / _ENOUGH) if isinstance(pool, int | float) else 1.0
    scaled = 0.8 if readings.get("playback.scale") == 1 else 1.0
    return (0.6 + 0.4 * filled) * scaled * _PICTURES.get(str(readings.get("playback.clip_pictures", "")), 1.0)


def pages(facts: Facts, readings: Readings) -> bool:
    """Whether previews and what is held back take more memory than there is."""
    return _share_asked(facts, readings) > 0.8


def _share_asked(facts: Facts, readings: Readings) -> float:
    asked = (readings.get(name, 0) for name in ("memory.preview_pool", "memory.held_back"))
    return sum(size for size in asked if isinstance(size, int | float)) / (facts.memory.total or math.inf)


def _at_rest(work: Work) -> Iterator[tuple[str, float]]:
    yield column.PROCESSOR, 0.04
    for gpu in work.facts.gpus or ():
        if gpu.enabled:
            yield f"{column.GPU}{gpu.id}", 0.02
    yield column.PAGE_INS, 0.0


def _busy(work: Work, draw: random.Random) -> Iterator[tuple[str, float]]:
    """One sample while it works."""
    on = _device_at_work(work)
    yield column.PROCESSOR, _share(draw, 0.38 if on else 0.94)
    saving = str(work.readings.get("power.profile", "")) == "power-saver"
    yield column.CLOCK, 1800.0 if saving else draw.gauss(3900, 60)
    yield column.MEMORY, 0.5 * (work.facts.memory.total or 0)
    yield column.PAGE_INS, draw.uniform(1500, 3000) if pages(work.facts, work.readings) else 0.0
    for gpu in work.facts.gpus or ():
        if gpu.enabled:
            yield f"{column.GPU}{gpu.id}", _share(draw, 0.62 if gpu.id == on else 0.03)
    yield column.TEMPERATURE, draw.gauss(71, 2)
    yield column.DISK_READ, draw.uniform(1.5e8, 2.5e8)


def _device_at_work(work: Work) -> str:
    """The GPU that is busy; empty where the processor does it all."""
    if work.job == "decode":
        listed = next((gpu for gpu in work.facts.gpus or () if gpu.id == work.device and gpu.enabled), None)
        return work.device if listed and work.codec in (listed.decode or ()) else ""
    if work.job == "render" and work.device:
        return work.device if work.device.startswith("gpu") else ""
    working = _working(work.facts, str(work.readings.get("engine.effects", "")))
    return working.id if working else ""


def _share(draw: random.Random, around: float) -> float:
    return min(1.0, max(0.0, draw.gauss(around, 0.03)))
