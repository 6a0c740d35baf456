import re
from unittest import TestCase

from normant_core.catalogue.settings import catalogue
from normant_core.judging.judge import Judge, Verdict, View
from normant_core.plan.errands import LONGEST_STEP, MOST_STEPS, Errand, Stop, errand_for, templates, way
from normant_core.seat.facts import Facts, Volume
from normant_core.standard.parse import parse_standard

from .worked import PAN_03

NOTHING = Facts()


def verdict(rule: str, reading: object, app: str | None = None, facts: Facts = NOTHING) -> Verdict:
    """What one rule says of one reading of pan-03."""
    text = f'format = "normant-standard/1"\nname = "t"\n[[layer]]\nname = "a"\n[[layer.rule]]\n{rule}\n'
    setting = rule.split('"')[1]
    seen = View(PAN_03, facts, {(setting, app): reading})  # type: ignore[dict-item]
    return Judge(parse_standard(text)).verdicts(seen, every=True)[0]


def made(rule: str, reading: object, app: str | None = None) -> Errand:
    errand = errand_for(verdict(rule, reading, app), "pan-03")
    assert errand is not None
    return errand


class Errands(TestCase):
    def test_an_errand_says_what_is_done_with_what_in_hand(self) -> None:
        errand = made('setting = "engine.integrated_enabled"\nwant = true', False)
        self.assertEqual(errand.does, "Turn Integrated GPU on in the firmware")
        self.assertIn("the firmware password", errand.bring)
        self.assertIn("change it from off to on", errand.steps[2])

    def test_a_newer_build_is_taken_back_with_its_projects_and_an_older_one_brought_on(self) -> None:
        rule = 'setting = "app.version"\nwant = "5.1.0"'
        self.assertEqual(made(rule, "5.2.1", "glaize").does, "Downgrade Glaize to 5.1.0")
        self.assertTrue(any("save each project" in step for step in made(rule, "5.2.1", "glaize").steps))
        self.assertEqual(made(rule, "5.0.9", "glaize").does, "Update Glaize to 5.1.0")

    def test_a_folder_for_which_no_volume_is_fit_needs_a_disk(self) -> None:
        rule = 'setting = "store.source_cache.path"\nmust = "volume.attached and not volume.system"'
        only = Volume("v0", "/", kind="ssd", system=True, attached=True, removable=False)
        errand = errand_for(verdict(rule, "/home/cache", "corrow", Facts(volumes=(only,))), "loft-04")
        self.assertEqual(errand and errand.does, "Connect the Corrow source cache disk")

    def test_what_somebody_must_decide_first_is_no_errand(self) -> None:
        undecided = verdict('setting = "power.sleep_after"\nmust = "reading == 0 s"', 600)
        self.assertEqual((undecided.status, errand_for(undecided, "pan-03")), ("off-norm", None))
        fit = verdict('setting = "power.sleep_after"\nwant = 0', 0)
        self.assertIsNone(errand_for(fit, "pan-03"))

    def test_every_template_is_whole_and_fits_a_sheet(self) -> None:
        words = {"{seat}", "{title}", "{what}", "{app}", "{reading}", "{wanted}"}
        for name, template in templates().items():
            with self.subTest(name):
                texts = (template.does, *template.steps, *template.bring)
                self.assertLessEqual({*re.findall(r"\{\w+\}", " ".join(texts))}, words)
                self.assertTrue(all(len(step) <= LONGEST_STEP for step in template.steps))
                self.assertTrue(3 <= len(template.steps) <= MOST_STEPS)

    def test_every_setting_that_no_order_sets_has_a_template(self) -> None:
        for key, setting in catalogue().settings.items():
            if not setting.remote and setting.kind == "text":
                with self.subTest(key):
                    app = "corrow" if setting.scope != "machine" else None
                    errand = made(f'setting = "{key}"\nwant = "wanted"', "other", app)
                    self.assertIn("wanted", errand.does)


class Ways(TestCase):
    def test_one_walks_along_the_floor_and_stops_once_at_each_seat(self) -> None:
        places = [("Pan House", "pan-01"), ("Pan House", "pan-02"), ("Kiln", "kiln-01")]
        stops = way({3: "kiln-01", 9: "pan-02", 1: "pan-02", 4: "gone"}, places)
        self.assertEqual(stops, [Stop("Pan House", "pan-02", (1, 9)), Stop("Kiln", "kiln-01", (3,))])
