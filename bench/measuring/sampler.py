"""What sampling costs beside a run: processor time of the agent's sampler at its own pace."""

import time

from normant_agent.jobs.sampler import Taker, sampling

from ..measure import Figure

SECONDS = 15.0
MOST = 0.01  # of a core


def sampler() -> Figure:
    """Share of one core, over a run of a quarter of a minute."""
    take = Taker(("python", "postgres")).take
    begun = time.process_time()
    with sampling(take) as made:
        time.sleep(SECONDS)
    share = (time.process_time() - begun) / SECONDS
    note = f"of one core; {len(made.samples.columns)} columns, {len(made.taken)} samples"
    return Figure.at_most("sampler", share * 100, "%", note, share, MOST)
