from unittest import TestCase

from normant_core.seat.facts import Facts, Gpu, Memory
from normant_core.seat.picture import Readings, budget, flows

GIB = 2**30


class Machine(TestCase):
    GPUS = (
        Gpu("gpu0", enabled=True, interfaces=("hadrel", "opencl"), decode=("avc/8/420",)),
        Gpu("gpu1", enabled=False, interfaces=("vulkan",), decode=("hevc/10/422",)),
    )

    def test_each_work_goes_to_a_device_or_says_why_not(self) -> None:
        asked: Readings = {
            ("engine.effects", "corrow"): "vulkan",
            ("engine.decode", "corrow"): "gpu1",
            ("engine.encode", "corrow"): "auto",
            ("engine.effects", "plinthe"): "opencl",
            ("engine.decode", "plinthe"): "auto",
        }
        rows = [(f.app, f.work, f.device, f.why) for f in flows(Facts(gpus=self.GPUS), asked)]
        self.assertEqual(
            rows,
            [
                ("corrow", "decode", None, "gpu1 is switched off in firmware"),
                ("corrow", "effects", None, "no enabled GPU offers vulkan"),
                ("corrow", "encode", "cpu", ""),
                ("plinthe", "decode", "gpu0", ""),
                ("plinthe", "effects", "gpu0", ""),
            ],
        )

    def test_memory_is_cut_into_shares_that_may_go_beyond_it(self) -> None:
        readings: Readings = {
            ("memory.held_back", "corrow"): 6 * GIB,
            ("memory.preview_pool", "corrow"): 16 * GIB,
            ("engine.workers", "plinthe"): 14,
            ("memory.per_worker", "plinthe"): 3 * GIB,
            ("memory.app_ceiling", "pockle"): 8 * GIB,
        }
        cut = budget(Facts(memory=Memory(64 * GIB)), readings)
        assert cut
        self.assertEqual(
            [(s.name, s.app, s.size // GIB) for s in cut.shares],
            [
                ("System", None, 2),
                ("Memory reserve", None, 4),
                ("Preview pool", "corrow", 16),
                ("Workers", "plinthe", 42),
                ("Ceiling", "pockle", 8),
            ],
        )
        self.assertEqual(cut.over, 8 * GIB)

    def test_a_pool_that_applications_share_is_counted_once(self) -> None:
        readings: Readings = {
            ("memory.preview_pool", "corrow"): 16 * GIB,
            ("memory.preview_pool", "plinthe"): 24 * GIB,
            ("memory.preview_pool", "glaize"): 8 * GIB,
        }
        pools = {"corrow": "bench", "plinthe": "bench", "glaize": "its own"}
        shares = {
            tuple(sorted(pools_of_app)): [(s.name, s.app, s.size // GIB) for s in cut.shares[1:]]
            for pools_of_app in (pools, {"corrow": "bench"})
            if (cut := budget(Facts(memory=Memory(64 * GIB)), readings, pools_of_app))
        }
        self.assertEqual(
            shares["corrow", "glaize", "plinthe"],
            [("Pool of Corrow and Plinthe", None, 24), ("Preview pool", "glaize", 8)],
        )
        self.assertEqual([size for _, _, size in shares[("corrow",)]], [16, 24, 8])

    def test_memory_of_unknown_size_is_not_cut(self) -> None:
        self.assertIsNone(budget(Facts(), {("memory.preview_pool", "corrow"): GIB}))
