from unittest import TestCase

from normant_core.base.paths import unfit


class Paths(TestCase):
    def test_what_leads_away_from_the_root_is_unfit_on_every_system(self) -> None:
        for path, word in {
            "": "begin",
            "/etc/passwd": "begin",
            "//share/c/x.xml": "begin",
            "\\\\share\\c\\x.xml": "begin",
            "corrow\\..\\x.xml": "drive",
            "C:/corrow/x.xml": "drive",
            "corrow/x.xml:hidden": "drive",
            "corrow/../../x.xml": "leads away",
            "../x.xml": "leads away",
            "corrow//x.xml": "leads away",
            "./x.xml": "leads away",
            "corrow/x.xml/": "leads away",
            "corrow/CON": "device",
            "nul.xml": "device",
            "Lpt1.preferences.xml": "device",
            "corrow/com9 .xml": "device",
            "corrow/x.xml.": "dot or a space",
            "corrow /x.xml": "dot or a space",
            "corrow/x\0.xml": "control",
            "corrow/x\n.xml": "control",
        }.items():
            with self.subTest(path):
                self.assertIn(word, unfit(path))

    def test_ordinary_paths_are_fit(self) -> None:
        for path in ("corrow/8/preferences.xml", "console/x.xml", "a.b/..c/…/x", "corrow/{version}/*.xml", "nullable"):
            self.assertEqual(unfit(path), "", path)
