"""What may go of a store: against a plain reading of the rules, and case by case."""

import datetime as dt
from collections.abc import Sequence
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from normant_core.care.ages import AgeTally
from normant_core.care.belonging import Belonging, PatternError
from normant_core.care.clearing import ENOUGH, MADE, NEWEST, Kind, Rules, Sieve, StoreItem, staying_words, why_kept
from normant_core.care.deliveries import DeliveredProject, Deliveries, name_key
from normant_core.measure.machine.house_costs import AheadForm, HouseCosts, ProxyForm
from normant_core.measure.machine.remaking import picture_words

AS_OF = dt.datetime(2026, 11, 2, 6, tzinfo=dt.UTC)
DAY = 86_400.0
LIVE, DELIVERED = "Nine Lamps", "reel 1"
SALT = "Salt Mill"


def delivered(*keys: tuple[str, str], app: str = "corrow", name_is_unique: bool = True) -> Deliveries:
    """Projects of productions with a delivered export, of `app`, as an application `corrow` looks them up."""
    return Deliveries((DeliveredProject(*key, app, name_is_unique) for key in keys), "corrow")


def item(days: float, size: int = 10, **other: object) -> StoreItem:
    """Used so many days ago."""
    return StoreItem(size, AS_OF.timestamp() - days * DAY, **other)  # type: ignore[arg-type] # as the test names them


def rules(kind: Kind = "frame_cache", **other: object) -> Rules:
    """Of a house in which one production is live, and one project delivered."""
    fields = {"live": frozenset({LIVE}), "deliveries": delivered((SALT, DELIVERED)), **other}
    return Rules(kind, AS_OF, **fields)  # type: ignore[arg-type] # as above


def sifted(asked: Rules, items: Sequence[StoreItem], free: int | None = None, most: int | None = None) -> list[str]:
    """Why each is kept, empty where it goes."""
    sieve = Sieve(asked, free, most)
    for each in items:
        sieve.take(each)
    decided = sieve.decide()
    return [decided.why(number) for number in range(len(items))]


class Reasons(TestCase):
    def test_each_reason_keeps_an_item_by_itself(self) -> None:
        cases: list[tuple[Kind, StoreItem, str]] = [
            ("frame_cache", item(59.9), "used within 60 days"),
            ("frame_cache", item(-1), "in the future"),
            ("frame_cache", item(90, production=LIVE), "is live"),
            ("frame_cache", item(90, stays="open in a program"), "open in a program"),
            ("renders", item(90, project="reel 2"), "reel 2 has no delivered export"),
            ("renders", item(90), "does not name a project"),
            ("backups", item(90, project="reel 2"), "no delivered export"),
            ("exports", item(900), "never deleted"),
            ("sources", item(900), "never deleted"),
            ("projects", item(900, project=DELIVERED), "never deleted"),
        ]
        for kind, each, words in cases:
            with self.subTest(kind=kind, words=words):
                self.assertIn(words, why_kept(rules(kind), each))

    def test_what_nothing_speaks_against_goes(self) -> None:
        for kind, making in MADE.items():
            if making != "never by us":
                with self.subTest(kind):
                    self.assertEqual(why_kept(rules(kind), item(60, project=DELIVERED)), "")


class Targets(TestCase):
    def test_the_oldest_goes_first_then_the_largest_until_enough_is_free(self) -> None:
        items = [item(70, 30), item(90, 5), item(90, 20), item(80, 10), item(65, 99)]
        self.assertEqual(sifted(rules(), items, free=34), [ENOUGH, "", "", "", ENOUGH])
        self.assertEqual(sifted(rules(), items, free=0), [ENOUGH] * 5)
        self.assertEqual(sifted(rules(), items, free=10**18), [""] * 5)

    def test_what_goes_and_what_stays_is_summed_by_its_reason(self) -> None:
        sieve = Sieve(rules(), free=25)
        for each in (item(90, 20), item(80, 10), item(70, 40), item(1, 7)):
            sieve.take(each)
        decided = sieve.decide()
        self.assertEqual(decided.goes, (2, 30))
        self.assertEqual([*decided.reasons()], [(ENOUGH, 1, 40), ("used within 60 days", 1, 7)])


class Names(TestCase):
    """Files with several names."""

    def test_bytes_count_once_and_go_with_the_last_name(self) -> None:
        sieve = Sieve(rules(), free=1)
        pair = [item(90, 50, names=2, same=(1, 7)), item(90, 50, names=2, same=(1, 7)), item(95, 1)]
        self.assertEqual([sieve.take(each) for each in pair], [50, 0, 1])
        self.assertEqual(sifted(rules(), pair, free=51), ["", "", ""])
        self.assertEqual(sifted(rules(), pair, free=1), [ENOUGH, ENOUGH, ""])

    def test_a_name_that_stays_keeps_the_others(self) -> None:
        pair = [item(90, names=2, same=(1, 7)), item(90, names=2, same=(1, 7), production=LIVE)]
        whys = sifted(rules(), pair)
        self.assertIn("another hard link", whys[0])
        self.assertIn("is live", whys[1])
        self.assertIn("1 hard link outside", sifted(rules(), pair[:1])[0])


class Backups(TestCase):
    def test_the_newest_stay_and_one_that_is_older_than_a_week(self) -> None:
        days = [100, 1, 2, 3, 90, 80]
        whys = sifted(rules("backups"), [item(age, project=DELIVERED) for age in days])
        self.assertEqual([bool(why) for why in whys], [False, True, True, True, False, True])
        self.assertIn("older than a week", whys[5])
        old = sifted(rules("backups"), [item(age, project=DELIVERED) for age in (61, 62, 63, 64)])
        self.assertEqual([bool(why) for why in old], [True] * NEWEST + [False])

    def test_projects_are_counted_by_themselves_and_unremovable_ones_not_at_all(self) -> None:
        asked = Rules("backups", AS_OF, deliveries=delivered((SALT, "a"), (SALT, "b")), newest=1)
        items = [
            item(70, project="a"),
            item(80, project="a"),
            item(90, project="b"),
            item(1, project="b", stays="a link"),
        ]
        self.assertEqual([bool(why) for why in sifted(asked, items)], [True, False, True, True])


class OfDeliveries(TestCase):
    def why(self, path: str, deliveries: Deliveries) -> str:
        production, _, project = path.rpartition("/")
        return why_kept(rules("renders", deliveries=deliveries), item(90, production=production, project=project))

    def test_releases_the_project_of_that_production_and_application_alone(self) -> None:
        deliveries = delivered((SALT, "one"))
        self.assertEqual(self.why("salt_mill/one", deliveries), "")
        for path in ("Harbour/one", "Salt Mill/two"):
            self.assertIn("has no delivered export", self.why(path, deliveries))
        self.assertIn("has no delivered export", self.why("Salt Mill/one", delivered((SALT, "one"), app="tamsel")))

    def test_a_path_without_a_production_needs_a_name_that_is_unique_in_the_house(self) -> None:
        self.assertEqual(self.why("one", delivered((SALT, "one"))), "")
        known_twice = delivered((SALT, "one"), name_is_unique=False)
        self.assertIn("one has no delivered export", self.why("one", known_twice))

    def test_a_path_without_a_production_stays_where_the_store_has_that_name_twice(self) -> None:
        asked = rules("renders", deliveries=delivered((SALT, "one")))
        loose = item(90, project="one")
        self.assertEqual(sifted(asked, [loose, item(90, production=SALT, project="one")]), ["", ""])
        whys = sifted(asked, [loose, item(90, production="Harbour", project="one")])
        self.assertIn("several productions have a project one", whys[0])

    @given(
        st.sets(st.tuples(st.sampled_from("AB"), st.sampled_from(["one", "two"]))),
        st.booleans(),
        st.sampled_from(["", "A", "a!", "B"]),
        st.sampled_from(["one", "two"]),
    )
    def test_releases_as_its_definition_says(
        self, keys: set[tuple[str, str]], is_unique: bool, production: str, project: str
    ) -> None:
        released = delivered(*sorted(keys), name_is_unique=is_unique).find(production, project)
        named = {key for key in keys if key[1] == project}
        if production:
            named = {key for key in named if name_key(key[0]) == name_key(production)}
        elif not is_unique:
            named = set()
        self.assertEqual(released is not None, bool(named))
        if released:
            self.assertIn((released.production, released.project), named)


ITEMS = st.lists(
    st.builds(
        item,
        st.sampled_from([-1, 0, 3, 10, 59, 60, 61, 90, 400]),
        st.integers(0, 50),
        stays=st.sampled_from(["", "", "", "open"]),
        production=st.sampled_from(["", LIVE, SALT]),
        project=st.sampled_from(["", DELIVERED, "reel 2"]),
        same=st.sampled_from([None, None, (1, 1), (1, 2)]),
    ),
    max_size=14,
)


def plainly(asked: Rules, items: Sequence[StoreItem], free: int | None, most: int | None) -> list[bool]:
    """Which go: the rules read sentence by sentence, with nothing spared."""
    stay = {n for n, each in enumerate(items) if why_kept(asked, each)}
    if asked.kind in ("renders", "backups"):
        elsewhere = {each.project for each in items if each.production == LIVE}  # its deliveries are of SALT
        stay |= {n for n, each in enumerate(items) if not each.production and each.project in elsewhere}
    if asked.kind == "backups":
        for key in {(each.production, each.project) for each in items if each.project}:
            own = [n for n, each in enumerate(items) if (each.production, each.project) == key and not each.stays]
            own.sort(key=lambda n: -items[n].used)
            newest = own[: asked.newest]
            weekly = [n for n in own if AS_OF.timestamp() - items[n].used >= 7 * DAY]
            stay |= {*newest, *([] if {*weekly} & {*newest} else weekly[:1])}
    groups = [
        {n for n, each in enumerate(items) if each.same == same} for same in {each.same for each in items} - {None}
    ]
    for group in groups:
        outside = items[min(group)].names > len(group)
        stay |= group if outside or stay & group else set()
    may = [n for n in range(len(items)) if n not in stay]
    first = {min(group) for group in groups}
    size = {n: 0 if items[n].same and n not in first else items[n].size for n in range(len(items))}
    made, going = 0, set[int]()
    for n in sorted(may, key=lambda n: (items[n].used, -size[n], n)):
        made += size[n]
        if (free is None or made - size[n] < free) and (most is None or made <= most):
            going.add(n)
    for group in groups:
        if group <= {*may}:
            going = going | group if min(group) in going else going - group
    return [n in going for n in range(len(items))]


TARGETS = st.none() | st.integers(0, 200)


class Plainly(TestCase):
    @settings(max_examples=300, deadline=None)
    @given(ITEMS, st.sampled_from(["frame_cache", "renders", "backups", "exports"]), TARGETS, TARGETS)
    def test_nothing_goes_that_a_plain_reading_keeps(
        self, items: list[StoreItem], kind: Kind, free: int | None, most: int | None
    ) -> None:
        named = [
            StoreItem(each.size, each.used, each.stays, each.production, each.project, names, each.same)
            for each in items
            for names in [sum(other.same == each.same for other in items) + (each.same == (1, 2)) if each.same else 1]
        ]
        inodes = {
            each.same: each for each in reversed(named) if each.same
        }  # names of one file have its bytes and moment
        named = [
            StoreItem(inodes[o.same].size, inodes[o.same].used, o.stays, o.production, o.project, o.names, o.same)
            if o.same
            else o
            for o in named
        ]
        asked = rules(kind)
        self.assertEqual([not why for why in sifted(asked, named, free, most)], plainly(asked, named, free, most))


class Patterns(TestCase):
    def test_a_path_tells_production_and_project(self) -> None:
        both = Belonging(r"^(?P<production>[^/]+)/(?P<project>[^/]+)/")
        self.assertEqual(both.of("Nine Lamps/reel 1/0001.exr"), ("Nine Lamps", "reel 1"))
        self.assertEqual(both.of("0001.exr"), ("", ""))
        self.assertEqual(Belonging(r"^(?P<project>\w+)?").of("/x"), ("", ""))
        self.assertEqual(Belonging("").of("a/b"), ("", ""))

    def test_no_pattern_takes_long_or_fails_otherwise_than_with_words(self) -> None:
        self.assertEqual(Belonging("(?P<project>(a+)+)$").of("a" * 4000 + "b"), ("", ""))
        for pattern, words in [
            ("(", "missing"),
            ("(?P<reel>x)", "group 'reel'"),
            ("x", "names no group"),
            (r"(?P<project>x)\1", "cannot be read"),
            ("(?P<project>((a{99}){99}){9})", "cannot be read"),
            ("(?P<project>\udcff)", "is no text"),
            ("(?P<project>" + "a" * 600 + ")", "at most 500"),
        ]:
            with self.subTest(words), self.assertRaisesRegex(PatternError, words):
                Belonging(pattern)


class Ages(TestCase):
    @given(st.lists(st.tuples(st.floats(0, 400), st.integers(0, 1000))))
    def test_each_age_counts_what_nobody_used_for_so_long(self, files: list[tuple[float, int]]) -> None:
        tally = AgeTally(AS_OF)
        for days, size in files:
            tally.take((AS_OF - dt.timedelta(days=days)).timestamp(), size)
        counted = {share.days: share.size for share in tally.shares()}
        used = [((AS_OF - dt.timedelta(days=days)).timestamp(), size) for days, size in files]
        limits = {days: (AS_OF - dt.timedelta(days=days)).timestamp() for days in (7, 30, 60, 90, 180)}
        plain = {days: sum(size for last, size in used if last < limit) for days, limit in limits.items()}
        self.assertEqual(counted, plain)
        self.assertEqual([share.days for share in tally.shares()], [7, 30, 60, 90, 180])

    def test_what_nobody_knows_the_use_of_counts_as_used_lately(self) -> None:
        tally = AgeTally(AS_OF)
        tally.take(0, 50)
        self.assertEqual({share.size for share in tally.shares()}, {0})


class Remaking(TestCase):
    def test_how_much_picture_would_have_to_be_made_again(self) -> None:
        costs = HouseCosts(proxy=ProxyForm(mbits=40), ahead=AheadForm(mbits=200))
        sizes = (0, 1, 300_000_000, 18_000_000_000, 36_000_000_000, 10**15)
        words = [
            "",
            "1 min of picture",
            "1 min of picture",
            "60 min of picture",
            "2 h of picture",
            "55,556 h of picture",
        ]
        self.assertEqual([picture_words("proxies", size, costs) for size in sizes], words)
        self.assertEqual(picture_words("renders", 9_400_000_000, costs), "6 min of picture")
        self.assertEqual(picture_words("source_cache", 10**12, costs), "")


class Staying(TestCase):
    def test_what_stays_however_old_it_is(self) -> None:
        self.assertEqual(staying_words("exports", {}), "everything: exports are never deleted")
        self.assertEqual(staying_words("frame_cache", {}), "open or locked files")
        self.assertEqual(
            staying_words("backups", {"Mill Lane": 31 * 10**9}),
            "open or locked files; files of projects without a delivered export; the newest 3 backups of each "
            "project, and 1 older than a week; 31 GB of Mill Lane, which has not ended",
        )
