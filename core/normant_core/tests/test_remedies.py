"""A timeline on seats: rates by size, and the fewest changes that make it play, tried anew against the whole sum."""

from collections.abc import Iterable
from fractions import Fraction as F
from unittest import TestCase

import numpy as np

from normant_core.measure.machine.laid import laid
from normant_core.measure.machine.playing import DecodeRate, Media, Played, rates_of, without_gpu_form
from normant_core.measure.machine.remedies import Remedy, RemedyTerms, remedies
from normant_core.measure.machine.timeline import Placed, Rates, Work
from normant_core.seat.facts import Driver, Facts, Gpu

UHD = 3840 * 2160
HEVC, AVC, PROXY = Media("hevc/10/422", 3840, 2160), Media("avc/8/420", 3840, 2160), Media("avc/8/420", 1920, 1080)
SEAT = Facts(
    gpus=(Gpu("gpu0", "Hadrel H60", enabled=True, driver=Driver("1")), Gpu("gpu1", "Caddis i3", enabled=False))
)
MEASURED = (
    DecodeRate("hevc/10/422", "cpu", 18, UHD),
    DecodeRate("avc/8/420", "gpu0", 240, UHD),
    DecodeRate("avc/8/420", "cpu", 15, UHD),
)
EFFECTS = {"blur": {"gpu": 90.0}, "key": {"Hadrel H60": 60.0, "cpu": 9.0}, "grain": {"cpu": 12.0}}


def decode(source: str, start: int | F, end: int | F, speed: int | F = 1) -> Placed:
    return Placed(Work("decode", source, F(speed)), F(start), F(end))


def effect(name: str, start: int | F, end: int | F) -> Placed:
    return Placed(Work("effects", name), F(start), F(end))


def played(*placed: Placed, end: int = 10) -> Played:
    media = {part.work.name: HEVC if part.work.name.startswith("h") else AVC for part in placed}
    media = {name: kind for name, kind in media.items() if name not in EFFECTS and name != "lost"}
    return Played(placed, F(end), F(25), media, PROXY)


def at(timeline: Played, scale: F = F(1), measured: Iterable[DecodeRate] = MEASURED) -> Rates:
    return rates_of(SEAT, measured, timeline.kinds(), EFFECTS, scale)


def ways_of(timeline: Played, terms: RemedyTerms | None = None) -> tuple[Remedy, ...]:
    return remedies(timeline, lambda scale: at(timeline, scale), terms or RemedyTerms())


class Seats(TestCase):
    def test_a_frame_of_four_times_the_pixels_takes_four_times_as_long(self) -> None:
        rates = at(played(decode("a", 0, 5)))
        self.assertEqual(rates.decode["avc/8/420 3840x2160"], {"gpu0": 240, "cpu": 15})
        self.assertEqual(rates.decode[PROXY.label], {"gpu0": 960, "cpu": 60})

    def test_effects_go_by_model_by_any_gpu_that_is_on_and_by_scale(self) -> None:
        rates = at(played(decode("a", 0, 5)), F(1, 2)).effects
        self.assertEqual(rates, {"blur": {"gpu0": 360}, "key": {"gpu0": 240, "cpu": 36}, "grain": {"cpu": 48}})
        self.assertEqual(without_gpu_form(EFFECTS, ["grain", "key", "glow"]), ["grain"])

    def test_worked(self) -> None:
        """measure.md, timeline load: at 25 a second, hevc on the processor 18, avc on gpu0 240, blur 90, key 60."""
        made = played(
            decode("a", 0, 1), decode("h", 1, 2), decode("a", 1, 2), effect("blur", 1, 2), decode("h", 2, 3),
            decode("h2", 2, 3), effect("blur", 2, 3), effect("key", 2, 3), end=3,
        )  # fmt: skip
        first, second, third = made.on(made.profile(), at(made)).stretches()
        self.assertEqual(({k: round(v, 3) for k, v in first.loads.items()}, first.plays_at), ({"gpu0": 0.104}, 25))
        self.assertEqual((round(second.loads["cpu"], 3), second.plays_at, second.limited_by), (1.389, 18, "cpu"))
        self.assertEqual((round(third.loads["cpu"], 3), third.plays_at), (2.778, 9))
        self.assertEqual(round(third.loads["gpu0"], 3), 0.694)

    def test_what_is_not_known_is_named_and_counts_as_nothing(self) -> None:
        made = played(decode("lost", 0, 5), effect("glow", 0, 5))
        self.assertEqual(made.unknown, ["lost"])
        self.assertEqual(made.unmeasured(made.profile(), at(made)), ["glow"])

    def test_a_timeline_is_kept_exactly(self) -> None:
        parts = [decode("a", F(1001, 24000), F(3, 7), F(5, 2)), effect("blur", 0, 1), decode("a", 1, 2, F(5, 2))]
        timeline = laid(F(24000, 1001), F(9), parts, ["V1 at 0/1: gone"])
        self.assertEqual((timeline.placed(), F(timeline.rate), len(timeline.works)), (parts, F(24000, 1001), 2))


class Remedies(TestCase):
    def test_what_plays_needs_none(self) -> None:
        self.assertEqual(ways_of(played(decode("a", 0, 5))), ())

    def test_a_proxy_of_the_one_source_that_is_too_much(self) -> None:
        [first, second, *_] = ways_of(played(decode("h", 2, 6), decode("a", 0, 10)))
        [step] = first.steps
        self.assertEqual((step.kind, step.name, step.size), ("proxy", "h", 18_000_000))
        assert step.minutes
        self.assertAlmostEqual(step.minutes, 4 * 25 / 18 / 60)
        self.assertEqual(first.sentence, "proxies of 1 source")
        self.assertEqual([(s.kind, s.start, s.end, s.size) for s in second.steps], [("ahead", "2", "6", 110_000_000)])

    def test_worked_space_of_proxies(self) -> None:
        """measure.md, decode routes: 3 h 12 min at 36 Mbit/s is 51.8 GB."""
        [first, *_] = ways_of(played(decode("h", 0, 11520), end=11520))
        self.assertEqual(first.size, 51_840_000_000)

    def test_a_source_that_comes_twice_at_two_speeds_is_one_proxy(self) -> None:
        [first, *_] = ways_of(played(decode("h", 0, 2), decode("h", 1, 3, 2), decode("h", 4, 5)))
        self.assertEqual([(step.kind, step.name) for step in first.steps], [("proxy", "h")])
        self.assertEqual(first.size, (2 + 4 + 1) * 36_000_000 // 8)

    def test_fewer_changes_before_fewer_bytes(self) -> None:
        sources = [decode(f"h{n}", n, n + 1) for n in range(5)]
        [first, *_] = ways_of(played(*sources))
        self.assertEqual([step.kind for step in first.steps], ["ahead"])
        self.assertEqual((first.steps[0].start, first.steps[0].end), ("0", "5"))

    def test_scale_where_effects_are_too_much(self) -> None:
        [first, *_] = ways_of(played(decode("a", 0, 10), *[effect("key", 2, 8)] * 3))
        self.assertEqual([(step.kind, step.name, step.size) for step in first.steps], [("scale", "1/2", 0)])
        self.assertEqual(first.sentence, "playback at 1/2")

    def test_a_proxy_that_would_load_a_device_too_much_is_none(self) -> None:
        timeline = played(decode("h", 0, 2), decode("a", 0, 2), decode("b", 0, 2))
        slow = (DecodeRate("hevc/10/422", "cpu", 18, UHD), DecodeRate("avc/8/420", "gpu0", 60, UHD))
        ways = remedies(timeline, lambda scale: at(timeline, scale, slow), RemedyTerms())
        self.assertTrue(ways)
        for way in ways:
            self.assertTrue(holds(timeline, way, slow), way)

    def test_every_way_holds_and_none_of_its_proxies_is_idle(self) -> None:
        draw = np.random.default_rng(16)
        for trial in range(60):
            timeline = drawn(draw)
            for way in ways_of(timeline):
                with self.subTest(trial=trial, way=way.sentence):
                    self.assertTrue(holds(timeline, way))
                    for step in way.steps:
                        if step.kind != "scale":
                            rest = tuple(other for other in way.steps if other != step)
                            self.assertFalse(holds(timeline, Remedy(rest, 0, "")), step)

    def test_nothing_measured_is_nothing_promised(self) -> None:
        timeline = played(decode("h", 0, 5))
        self.assertEqual(remedies(timeline, lambda scale: at(timeline, scale, ()), RemedyTerms()), ())


def drawn(draw: np.random.Generator) -> Played:
    parts = list[Placed]()
    for _ in range(int(draw.integers(3, 31))):
        start = F(int(draw.integers(0, 81)), int(draw.choice((1, 8))))
        end = start + F(int(draw.integers(1, 61)), 10)
        if draw.random() < 0.3:
            parts.append(effect(str(draw.choice(list(EFFECTS))), start, end))
        else:
            parts.append(
                decode(f"{draw.choice(list('hha'))}{draw.integers(0, 5)}", start, end, int(draw.choice((1, 1, 2))))
            )
    return played(*parts, end=100)


def holds(timeline: Played, way: Remedy, measured: Iterable[DecodeRate] = MEASURED) -> bool:
    """Whether all plays, summed up anew with all that the way says; what is rendered ahead is left out."""
    scale = next((F(step.name) for step in way.steps if step.kind == "scale"), F(1))
    profile = timeline.profile(step.name for step in way.steps if step.kind == "proxy")
    ahead = [(F(step.start), F(step.end)) for step in way.steps if step.kind == "ahead"]
    for stretch in timeline.on(profile, at(timeline, scale, measured)).stretches():
        left = [(stretch.start, stretch.end)]
        for start, end in ahead:
            left = [piece for a, b in left for piece in ((a, min(b, start)), (max(a, end), b)) if piece[0] < piece[1]]
        if left and max(stretch.loads.values(), default=0) > 1 + 1e-9:
            return False
    return True
