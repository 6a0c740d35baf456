"""The stand-ins' meter: a small model of how a machine plays and renders with the settings that it has.

Each part of it takes its share of a rate: where effects are worked out, how the system trades speed for power, what
previews may fill, at which scale they play, where the cache lies. Runs scatter around it by two parts in a hundred.
"""

import random
from collections.abc import Mapping

from normant_agent.hosts.host import Job
from normant_core.base.quantities import Value
from normant_core.seat.facts import Facts

RATE = 50.0  # frames per second, and
SECONDS = 150.0  # of the render, that nothing slows down
SCATTER = 0.02
_DEVICES = {"cpu": 0.4, "opencl": 0.85, "vulkan": 0.9}
_PROFILES = {"performance": 1.0, "balanced": 0.9, "power-saver": 0.65}
_ENOUGH = 8 * 2**30  # bytes of previews
_SYSTEM_DISK = 0.85  # of the rate of a disk of its own

Readings = Mapping[str, Value]


def run(job: Job, facts: Facts, readings: Readings, seed: str) -> float:
    """Frames per second, or seconds; the same seed gives the same run."""
    noise = random.Random(seed).lognormvariate(0, SCATTER)
    if job == "play":
        return RATE * _speed(facts, readings) * _previews(readings) * noise
    return SECONDS / _speed(facts, readings) * noise


def _speed(facts: Facts, readings: Readings) -> float:
    device = _DEVICES.get(str(readings.get("engine.effects", "")), 1.0)
    profile = _PROFILES.get(str(readings.get("power.profile", "")), 1.0)
    volume = facts.volume_of(str(readings.get("store.source_cache.path", "")))
    return device * profile * (_SYSTEM_DISK if volume and volume.system else 1.0)


def _previews(readings: Readings) -> float:
    pool = readings.get("memory.preview_pool", _ENOUGH)
    filled = min(1.0, float(pool) / _ENOUGH) if isinstance(pool, int | float) else 1.0
    scaled = 0.8 if readings.get("playback.scale") == 1 else 1.0
    return (0.6 + 0.4 * filled) * scaled
