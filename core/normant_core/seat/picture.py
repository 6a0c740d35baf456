"""The machine as a picture needs it: what flows to which device, and how its memory is cut."""

from collections.abc import Collection, Iterator, Mapping
from fractions import Fraction

import msgspec

from ..base.quantities import Value
from ..base.wording import app_title, listed
from ..catalogue.settings import catalogue
from .facts import Facts, Gpu
from .survey import Key

Readings = Mapping[Key, Value]
SYSTEM_FLOOR = 2 * 2**30  # bytes that a system takes before anything is started
POOL = "Preview pool"
_WORK = {"engine.decode": "decode", "engine.effects": "effects", "engine.encode": "encode"}


class Flow(msgspec.Struct, frozen=True):
    """Work of one application, and the device it goes to: a GPU's id, `cpu`, or nothing with the reason."""

    app: str
    work: str
    device: str | None
    asked: str
    why: str = ""


class MemoryShare(msgspec.Struct, frozen=True):
    """A part of the memory, in bytes; a pool that applications share is counted once."""

    name: str
    app: str | None
    size: int


class Budget(msgspec.Struct, frozen=True):
    """How the memory is cut; `over` is by how much the shares go beyond it, 0 where they fit."""

    total: int
    shares: tuple[MemoryShare, ...]
    over: int


def flows(facts: Facts, readings: Readings) -> list[Flow]:
    """Where each application's decoding, effects and encoding go, by its settings and what the GPUs can do."""
    flows_found = list[Flow]()
    for key, value in readings.items():
        if key[0] in _WORK and key[1]:
            device, why = _device(facts, readings, key, str(value))
            flows_found.append(Flow(key[1], _WORK[key[0]], device, str(value), why))
    return sorted(flows_found, key=lambda flow: (flow.app, list(_WORK.values()).index(flow.work)))


def _pool_share(sizes: Mapping[str, int]) -> MemoryShare:
    """What applications that draw from one pool take of it, from what each of them asks for."""
    return MemoryShare(f"Pool of {listed(map(app_title, sorted(sizes)))}", None, max(sizes.values()))


def budget(facts: Facts, readings: Readings, pools: Mapping[str, str] | None = None) -> Budget | None:
    """The memory by who may take it; None where its size was not read.

    The system's floor, the most that is held back, every preview pool and every crowd of workers. An application with
    a ceiling takes no more than that, whatever its parts add up to. `pools` names the pool that an application draws
    its preview from: applications that share one are counted once, by the largest that any of them asks for.
    """
    if not facts.memory.total:
        return None
    held = max((size for _, size in _sizes(readings, "memory.held_back")), default=0)
    shared = _shared(readings, pools or {})
    shares = [
        MemoryShare("System", None, SYSTEM_FLOOR),
        MemoryShare("Memory reserve", None, max(0, held - SYSTEM_FLOOR)),
        *map(_pool_share, shared),
        *_of_applications(readings, set().union(*shared)),
    ]
    taken = sum(share.size for share in shares)
    shown = tuple(share for share in shares if share.size)
    return Budget(facts.memory.total, shown, max(0, taken - facts.memory.total))


def _of_applications(readings: Readings, sharing: Collection[str]) -> Iterator[MemoryShare]:
    """What each application may take of its own; the pool of those that share one is counted before."""
    for app in dict.fromkeys(key[1] for key in readings if key[1]):
        parts = [part for part in _of(readings, app) if part.name != POOL or app not in sharing]
        yield from _within(readings, app, parts)


def _shared(readings: Readings, pools: Mapping[str, str]) -> list[dict[str, int]]:
    """What each application asks of a pool, for every pool that more than one draws from."""
    by_pool: dict[str, dict[str, int]] = {}
    for (_, app), size in _sizes(readings, "memory.preview_pool"):
        if app and app in pools:
            by_pool.setdefault(pools[app], {})[app] = size
    return [sizes for sizes in by_pool.values() if len(sizes) > 1]


def _of(readings: Readings, app: str) -> Iterator[MemoryShare]:
    pool = _bytes(readings.get(("memory.preview_pool", app)))
    workers, each = readings.get(("engine.workers", app)), _bytes(readings.get(("memory.per_worker", app)))
    if pool:
        yield MemoryShare(POOL, app, pool)
    if isinstance(workers, int) and each:
        yield MemoryShare("Workers", app, workers * each)


def _within(readings: Readings, app: str, parts: list[MemoryShare]) -> list[MemoryShare]:
    ceiling = _bytes(readings.get(("memory.app_ceiling", app)))
    if ceiling and (not parts or sum(part.size for part in parts) > ceiling):
        return [MemoryShare("Ceiling", app, ceiling)]
    return parts


def _sizes(readings: Readings, setting: str) -> Iterator[tuple[Key, int]]:
    for key, value in readings.items():
        if key[0] == setting and (size := _bytes(value)):
            yield key, size


def _bytes(value: Value) -> int:
    return int(value) if isinstance(value, int | Fraction) and not isinstance(value, bool) else 0


def _formats(gpu: Gpu, setting: str) -> Collection[str]:
    """What a GPU decodes, or encodes, by what the setting is about."""
    return (gpu.decode if setting == "engine.decode" else gpu.encode) or ()


def _device(facts: Facts, readings: Readings, key: Key, asked: str) -> tuple[str | None, str]:
    """The device that does what was asked for, or nothing with the reason."""
    if asked == "cpu":
        return "cpu", ""
    if key[0] == "engine.effects":
        return _of_interface(facts, asked, str(readings.get(("engine.effects_gpu", key[1]), "auto")))
    able = [gpu for gpu in facts.enabled_gpus() if _formats(gpu, key[0])]
    if asked == "auto":
        return able[0].id if able else "cpu", ""
    return _first([gpu for gpu in able if gpu.id == asked], _why_not(facts, asked, catalogue()[key[0]].title.lower()))


def _of_interface(facts: Facts, asked: str, wanted: str) -> tuple[str | None, str]:
    """A GPU that offers an interface: the one that is named, where it does, else the first."""
    offering = [gpu for gpu in facts.enabled_gpus() if asked in (gpu.interfaces or ())]
    return _first(sorted(offering, key=lambda gpu: gpu.id != wanted), f"no enabled GPU offers {asked}")


def _first(gpus: list[Gpu], why: str) -> tuple[str | None, str]:
    return (gpus[0].id, "") if gpus else (None, why)


def _why_not(facts: Facts, asked: str, work: str) -> str:
    gpu = next((gpu for gpu in facts.gpus or () if gpu.id == asked), None)
    if gpu is None:
        return f"this seat has no {asked}"
    return f"{asked} is switched off in firmware" if gpu.enabled is False else f"{asked} cannot {work}"
