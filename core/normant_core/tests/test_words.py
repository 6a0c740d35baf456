"""What a standard names itself: constants, groups of seats, releases."""

import datetime as dt
import unittest

from normant_core.base.errors import DocumentError
from normant_core.judging.judge import Judge, View
from normant_core.seat.facts import Application, Facts, Gpu, Seat, Volume
from normant_core.seat.survey import Store
from normant_core.standard.parse import parse_standard
from normant_core.standard.releases import read_releases
from normant_core.standard.rule import ReleaseText

HEAD = 'format = "normant-standard/1"\nname = "t"\n'
GB = 10**9
PATH = ("store.source_cache.path", "corrow")
VERSION = ("app.version", "glaize")
LIST = """
[[release]]
setting = "app.version"
app = "glaize"
version = "5.0.3"
standing = "tolerated"
until = 2026-03-31
[[release]]
setting = "app.version"
app = "glaize"
version = "5.2"
standing = "approved"
[[release]]
setting = "app.version"
app = "glaize"
version = "5.3"
standing = "approved"
since = 2026-03-15
[[release]]
setting = "app.version"
app = "glaize"
version = "5.1.9"
standing = "blocked"
because = "it loses grades"
"""
LISTED = '[[layer]]\nname = "all"\n[[layer.rule]]\nsetting = "app.version"\napp = "glaize"\nlisted = "tolerated"\n'


def judge(body: str, words: str = "", day: dt.date | None = None) -> Judge:
    return Judge(parse_standard(HEAD + words + body, day=day))


def rule(*lines: str, when: str = "") -> str:
    layer = f'when = "{when}"\n' if when else ""
    return f'[[layer]]\nname = "all"\n{layer}[[layer.rule]]\n' + "\n".join(lines) + "\n"


def seat(role: str = "offline", free: int = 200, **more: object) -> View:
    facts = Facts(volumes=(Volume("v", "/", "nvme", free=free * GB),), gpus=(Gpu("g", enabled=True),))
    return View(Seat("s", role), facts, {PATH: "/c"}, **more)  # type: ignore[arg-type]


def glaize(version: str) -> View:
    return View(Seat("s"), Facts(applications=(Application("glaize", version),)), {VERSION: version})


class Words(unittest.TestCase):
    def faults(self, words: str, body: str = "") -> list[tuple[int | None, int | None, str]]:
        with self.assertRaises(DocumentError) as raised:
            judge(body or rule('setting = "power.profile"', 'want = "balanced"'), words)
        return [(fault.line, fault.column, fault.message) for fault in raised.exception.faults]

    def test_constants_stand_for_quantities_and_lists(self) -> None:
        words = '[constants]\nroom = "120 GB"\nfast = ["nvme", "ssd"]\n'
        made = judge(
            rule('setting = "store.source_cache.path"', 'must = "volume.free >= room and volume.kind in fast"'), words
        )
        self.assertEqual(
            [o.status for free in (120, 119) for o in made.judge(seat(free=free))], ["in-norm", "off-norm"]
        )

    def test_groups_stand_for_conditions_and_may_speak_of_each_other(self) -> None:
        words = '[groups]\ncutting = "seat.role == \'offline\'"\nquiet = "not cutting"\n'
        body = rule('setting = "store.source_cache.path"', 'never = ["/c"]', when="quiet")
        self.assertEqual([judge(body, words).judge(seat(role)) != [] for role in ("offline", "comp")], [False, True])
        verdict = judge(body, words).verdicts(seat("comp"))[0]
        self.assertEqual(verdict.status, "off-norm")

    def test_stores_are_a_list_like_any_other(self) -> None:
        body = rule(
            'setting = "store.source_cache.path"', "must = \"all(stores, purpose != 'source_cache' or size < 400 GB)\""
        )
        for size, status in ((399 * GB, "in-norm"), (400 * GB, "off-norm"), (None, "unread")):
            outcomes = judge(body).judge(seat(stores=(Store("source_cache", "/c", size=size),)))
            self.assertEqual([outcome.status for outcome in outcomes], [status])

    def test_names_that_mean_something_already_are_refused_in_their_places(self) -> None:
        self.assertEqual(self.faults("[constants]\nmemory = 4\n"), [(4, 10, "the name 'memory' is taken")])
        self.assertEqual(self.faults('[groups]\nand = "true"\n')[0][2], "the name 'and' is taken")
        self.assertEqual(self.faults('[groups]\n"a b" = "true"\n')[0][2], "'a b' is no name")
        self.assertEqual(
            self.faults('[constants]\nmixed = [1, "nvme"]\n')[0][2], "mixed holds values of several kinds, or none"
        )
        self.assertEqual(self.faults('[groups]\nbig = "memory.totl > 4 GiB"\n')[0][:2], (4, 8))

    def test_a_word_of_another_kind_is_a_fault_where_it_is_used(self) -> None:
        body = rule('setting = "store.source_cache.path"', 'must = "volume.free >= fast"')
        self.assertIn("cannot be read", self.faults('[constants]\nfast = "nvme"\n', body)[0][2])


class Releases(unittest.TestCase):
    def verdict(self, version: str, day: dt.date | None = None) -> tuple[str, str, float | None, object]:
        verdict = judge(LISTED, LIST, day).verdicts(glaize(version), every=True)[0]
        return verdict.status, verdict.severity, verdict.distance, verdict.fix

    def test_approved_and_tolerated_builds_are_in_norm_others_are_so_many_releases_behind(self) -> None:
        self.assertEqual(self.verdict("5.2")[0], "in-norm")
        self.assertEqual(self.verdict("5.0.3")[0], "in-norm")
        self.assertEqual(self.verdict("4.9"), ("off-norm", "should", -2.0, "5.3"))
        approved = LISTED.replace("tolerated", "approved")
        verdict = judge(approved, LIST).verdicts(glaize("5.0.3"))[0]
        self.assertEqual(
            (verdict.distance, verdict.fix, verdict.norm.sentence), (-2.0, "5.3", "a listed release: 5.3, 5.2")
        )

    def test_a_blocked_build_is_a_finding_in_its_own_right(self) -> None:
        self.assertEqual(self.verdict("5.1.9"), ("off-norm", "must", -2.0, "5.3"))
        without = judge(rule('setting = "power.profile"', 'want = "balanced"'), LIST).verdicts(glaize("5.1.9"))[0]
        self.assertEqual(
            (without.layer, without.because, without.locked), ("Blocked builds", "5.1.9: it loses grades", True)
        )

    def test_builds_count_on_their_days(self) -> None:
        before, within, after = dt.date(2026, 3, 1), dt.date(2026, 3, 31), dt.date(2026, 4, 1)
        self.assertEqual([self.verdict("5.3", day)[0] for day in (before, within)], ["off-norm", "in-norm"])
        self.assertEqual([self.verdict("5.0.3", day)[0] for day in (within, after)], ["in-norm", "off-norm"])

    def test_a_table_of_releases_is_read_with_its_faults_by_row(self) -> None:
        head = ["Setting", "app", "version", "standing", "until", "note"]
        good = ["app.version", "glaize", "5.2", "approved", "2026-04-01", "x"]
        self.assertEqual(
            read_releases([head, good, ["", "", ""]]),
            [ReleaseText("app.version", "5.2", "approved", app="glaize", until=dt.date(2026, 4, 1))],
        )
        with self.assertRaises(DocumentError) as raised:
            read_releases([head, good, [*good[:3], "nice"], ["app.version", "glaize"]])
        self.assertEqual([fault.line for fault in raised.exception.faults], [3, 4])
        with self.assertRaises(DocumentError) as raised:
            read_releases([["app", "version"]])
        self.assertIn("no column 'setting'", str(raised.exception))

    def test_what_is_wrong_in_the_list_is_told(self) -> None:
        for words, expected in (
            (LIST.replace('version = "5.2"', 'version = "five"'), "expected"),
            (LIST.replace('app = "glaize"', "", 1), "a release of app.version"),
            (LIST.replace("until = 2026-03-31", "since = 2026-05-01\nuntil = 2026-03-31"), "ends before it begins"),
            (LIST.replace('version = "5.3"', 'version = "5.2"').replace("since = 2026-03-15\n", ""), "stands twice"),
        ):
            with self.subTest(expected), self.assertRaises(DocumentError) as raised:
                judge(LISTED, words)
            self.assertIn(expected, str(raised.exception))
        with self.assertRaises(DocumentError) as raised:
            judge(LISTED)
        self.assertIn("no tolerated release of glaize is in the list", str(raised.exception))
