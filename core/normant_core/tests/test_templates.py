import unittest

from normant_core.base.errors import FileError
from normant_core.base.quantities import Value
from normant_core.dialects.dialect import Dialect, parse_dialect
from normant_core.judging.judge import Judge, View
from normant_core.plan.plan import Means, SeatPlan, plan_seat
from normant_core.plan.templates import Apart, Held, Own, apart, fitting, placing, read_template, stands
from normant_core.seat.facts import Application, Facts, Gpu, Seat
from normant_core.seat.survey import Key, Native
from normant_core.standard.parse import parse_standard

DIALECT = """
format = "normant-dialect/1"
app = "corrow"
versions = ">=8"

[[file]]
name = "template"
path = "corrow/{version.major}/templates/*.json"
format = "json"

[[file.binding]]
setting = "project.engine"
at = "/engine"
values = { soft = "cpu", hard = "hadrel" }

[[file.binding]]
setting = "project.frame_rate"
at = "/rate"
"""
STANDARD = """
format = "normant-standard/1"
name = "House"

[[layer]]
name = "Whole facility"

[[layer.rule]]
setting = "project.engine"
must = "reading == 'cpu' or any(gpus, enabled and reading in interfaces)"
severity = "must"

[[layer]]
name = "Harbour Quarter"
when = "seat.production == 'Harbour Quarter'"

[[layer.rule]]
setting = "project.frame_rate"
want = "50"
"""
HARD = b'{"engine": "hard", "rate": "25"}'


def view(name: str, *interfaces: str, production: str = "Nine Lamps", app: str = "corrow") -> View:
    gpu = Gpu(id="gpu0", enabled=True, interfaces=interfaces)
    facts = Facts(gpus=(gpu,), applications=(Application(app, "8.1"),))
    return View(
        Seat(name, production=production), facts, {("project.engine", app): "cpu", ("power.profile", None): "x"}
    )


class Templates(unittest.TestCase):
    def setUp(self) -> None:
        self.judge = Judge(parse_standard(STANDARD))
        self.dialect: Dialect = parse_dialect(DIALECT)

    def test_its_settings_are_read_from_the_file(self) -> None:
        readings = read_template(self.dialect, "house.json", HARD)
        self.assertEqual(
            [(r.setting, r.value) for r in readings], [("project.engine", "hadrel"), ("project.frame_rate", 25)]
        )
        self.assertEqual(readings[0].native and readings[0].native.raw, "hard")

    def test_a_file_that_cannot_be_read_tells_every_fault(self) -> None:
        with self.assertRaises(FileError) as raised:
            read_template(self.dialect, "house.json", b'{"engine": "quick"}')
        self.assertIn("'quick' is none of soft, hard", str(raised.exception))
        self.assertIn("/rate", str(raised.exception))

    def test_a_dialect_without_templates_says_so(self) -> None:
        text = DIALECT.replace("project.engine", "engine.effects").replace("project.frame_rate", "playback.scale")
        with self.assertRaisesRegex(FileError, "of no file that it is a template"):
            read_template(parse_dialect(text), "house.json", HARD)

    def test_it_is_judged_by_the_rules_of_each_seat_that_has_the_application(self) -> None:
        views = [
            view("pan-01", "hadrel"),
            view("rake-01", "opencl"),
            view("sluice-01", "hadrel", production="Harbour Quarter"),
            view("weigh-01", "hadrel", app="tamsel"),
        ]
        stands_here = stands(self.judge, "corrow", read_template(self.dialect, "house.json", HARD), views)
        rows = [(s.reading.setting, s.verdict.status if s.verdict else None, s.seats) for s in stands_here]
        self.assertEqual(
            rows,
            [
                ("project.engine", "off-norm", ("rake-01",)),
                ("project.engine", "in-norm", ("pan-01", "sluice-01")),
                ("project.frame_rate", "off-norm", ("sluice-01",)),
                ("project.frame_rate", None, ("pan-01", "rake-01")),
            ],
        )

    def test_seats_that_hold_another_are_told(self) -> None:
        readings = read_template(self.dialect, "house.json", HARD)
        owns = [
            Own("pan-02", "project.engine", "cpu", "corrow/8/templates/house.json"),
            Own("pan-01", "project.engine", "cpu", "corrow/8/templates/house.json"),
            Own("pan-03", "project.engine", "cpu", "corrow/8/templates/lamps.json"),
            Own("pan-04", "project.engine", "hadrel", "corrow/8/templates/house.json"),
            Own("pan-05", "project.media_fit", "crop", "corrow/8/templates/house.json"),
        ]
        apart_here = apart("house.json", readings, owns)
        self.assertEqual(apart_here, [Apart("project.engine", "cpu", ("pan-01", "pan-02"))])


class Placing(unittest.TestCase):
    """The house's template settles a finding where it says what the norm wants."""

    def setUp(self) -> None:
        self.dialect = parse_dialect(DIALECT)
        self.facts = Facts(applications=(Application("corrow", "8.1", running=True),))
        self.judge = Judge(parse_standard(STANDARD))
        readings: dict[Key, Value] = {("project.frame_rate", "corrow"): 25, ("project.engine", "corrow"): "cpu"}
        self.view = View(Seat("pan-03", production="Harbour Quarter"), self.facts, readings)
        self.verdicts = [
            verdict for verdict in self.judge.verdicts(self.view) if verdict.setting == "project.frame_rate"
        ]
        self.natives: dict[Key, Native] = {
            ("project.frame_rate", "corrow"): Native("corrow/8/templates/house.json", "/rate", "25", 1)
        }

    def held(self, name: str, rate: int, *productions: str, file: str = "house.json") -> Held:
        readings = read_template(self.dialect, file, b'{"engine": "hard", "rate": "%d"}' % rate)
        return Held(name, "corrow", productions, file, name * 64, readings)

    def plan(self, *held: Held) -> SeatPlan:
        means = Means([self.dialect], templates=fitting(held, self.judge, self.view))
        return plan_seat("pan-03", self.verdicts, facts=self.facts, natives=self.natives, means=means)

    def test_it_takes_the_place_of_the_whole_file(self) -> None:
        [change] = self.plan(self.held("a", 50)).changes
        self.assertEqual((change.template, change.before, change.after, change.value), ("a" * 64, "25", "50", 50))
        self.assertEqual((change.file, change.close), ("corrow/8/templates/house.json", "corrow"))
        self.assertIn("the template a", change.at)

    def test_one_of_the_production_goes_before_one_for_all(self) -> None:
        [change] = self.plan(self.held("a", 50), self.held("b", 50, "Harbour Quarter")).changes
        self.assertEqual(change.template, "b" * 64)
        self.assertEqual(self.plan(self.held("a", 50), self.held("b", 25, "Harbour Quarter")).changes, ())

    def test_one_that_is_no_better_or_another_file_or_of_others_is_left(self) -> None:
        for held in (
            self.held("a", 25),
            self.held("a", 50, file="other.json"),
            self.held("a", 50, "Nine Lamps"),
        ):
            with self.subTest(held):
                made = self.plan(held)
                self.assertEqual((made.changes, made.left[0].why), ((), "needs a person at the seat"))

    def test_what_only_a_person_could_decide_a_template_in_norm_decides(self) -> None:
        facts = Facts(gpus=(Gpu("gpu0", enabled=True, interfaces=("opencl",)),), applications=self.facts.applications)
        seen = View(self.view.seat, facts, {("project.engine", "corrow"): "hadrel"})
        [verdict] = self.judge.verdicts(seen)
        self.assertIsNone(verdict.fix)
        native = Native("corrow/8/templates/house.json", "/engine", "hard", 1)
        for content, engine in ((b'{"engine": "soft", "rate": "50"}', "cpu"), (HARD, None)):
            with self.subTest(content):
                held = Held("a", "corrow", (), "house.json", "a" * 64, read_template(self.dialect, "h", content))
                template = placing(fitting([held], self.judge, seen), verdict, native)
                self.assertEqual(template and template[1].value, engine)
