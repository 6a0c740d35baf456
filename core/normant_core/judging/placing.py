"""On which volumes of a seat the house standard wants a store."""

from dataclasses import replace

import msgspec

from ..rules.evaluate import evaluate
from ..seat.facts import Volume
from ..seat.survey import Store
from .judge import Judge, View


def volumes_in_norm(judge: Judge, view: View, store: Store) -> tuple[str, ...] | None:
    """The volumes on which a store's folder would be in norm; None where no rule of the seat speaks of it.

    A volume is judged as it would be with the store on it: its bytes are free no more, but where it lies already.
    """
    speaking = judge.speaking(view, (f"store.{store.purpose}.path", store.app))
    if not speaking:
        return None
    rule, scope = speaking[0]
    with_it = [_with(volume, store) for volume in view.facts.volumes or ()]
    tried = (replace(scope, reading=volume.mount, volume=volume, shared={}) for volume in with_it)
    return tuple(v.id for v, seen in zip(with_it, tried, strict=True) if evaluate(rule.test, seen) is True)


def _with(volume: Volume, store: Store) -> Volume:
    comes = 0 if volume.id == store.volume else store.size or 0
    return msgspec.structs.replace(volume, free=None if volume.free is None else max(0, volume.free - comes))
