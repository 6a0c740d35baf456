"""What a machine is set for while somebody at it makes runs by hand: known to this process alone.

An agent that is started again knows nothing of it, and puts everything back.
"""

import time
from contextlib import ExitStack
from dataclasses import dataclass, field

from normant_core.orders.samples import Samples

from ...jobs.frame_stats import StatsWatch
from ...jobs.sampler import Sampling
from ...jobs.watcher import ExportWatch


@dataclass(slots=True)
class Held:
    """One condition that is held: for which order, until when (`time.monotonic`), with what watches meanwhile."""

    order: str
    until: float
    sampling: Sampling
    watch: ExportWatch | StatsWatch | None
    watching: ExitStack = field(default_factory=ExitStack)

    def stop(self) -> tuple[tuple[float, ...], Samples, str]:
        """No more is watched: the figure of each run, the samples, and what was exported. Again the same."""
        self.watching.close()
        if isinstance(self.watch, StatsWatch):
            return self.watch.figures(), self.sampling.samples, ""
        made = self.watch.finished if self.watch else []
        return tuple(export.seconds for export in made), self.sampling.samples, "; ".join(e.words for e in made)


@dataclass(slots=True)
class Holding:
    """The condition that is held now, if any is."""

    held: Held | None = None

    @property
    def is_live(self) -> bool:
        """Whether one is, and its time is not over."""
        return self.held is not None and time.monotonic() < self.held.until

    def forget(self) -> None:
        """Nothing is held any more."""
        if self.held:
            self.held.watching.close()
        self.held = None
