"""What each command imports. A heavy module that a light command pulls in is refused by an import hook."""

import os
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase

from normant_agent.cli.program import COMMANDS, GROUPS

from .bench import EXAMPLES

# None of these is needed before something is computed, spoken to or looked into.
HEAVY = (
    *("numpy", "scipy", "jsonschema", "pydantic", "av", "opentimelineio", "icalendar", "recurring_ical_events"),
    *("rich", "httpx", "asyncio", "cryptography", "psutil", "tomlkit", "yaml", "re2", "multiprocessing"),
)
HOOKED = """
import sys
refused = frozenset(sys.argv.pop(1).split(","))
class Refusing:
    def find_spec(self, name, path=None, target=None):
        if name.partition(".")[0] in refused:
            raise AssertionError(f"{name} was imported")
sys.meta_path.insert(0, Refusing())
from normant_agent.cli.program import main
main()
"""
LIGHT_EXITS = {"check": 1}  # the worked seat is off norm


class Starts(TestCase):
    def start(self, *words: object, without: tuple[str, ...] = HEAVY) -> subprocess.CompletedProcess[str]:
        """Run a command in a process of its own in which `without` cannot be imported."""
        command = [sys.executable, "-c", HOOKED, ",".join(without), *map(str, words)]
        return subprocess.run(command, capture_output=True, text=True, check=False, env={**os.environ, "LANG": "C"})

    def test_the_hook_refuses_a_heavy_module(self) -> None:
        self.assertIn("typer was imported", self.start("version", without=("typer",)).stderr)

    def test_light_commands_import_nothing_heavy(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            files = {"a.json": '{"a": 1}', "a.ini": "a=1\n", "a.toml": "a = 1\n", "a.xml": "<a><b>1</b></a>"}
            for name, text in files.items():
                Path(folder, name).write_text(text, "utf-8")
            survey, standard = EXAMPLES / "pan-03.survey.json", EXAMPLES / "house.standard.toml"
            cases = [
                ("version",),
                ("--version",),
                ("starter",),
                ("check", standard, survey, f"--register={EXAMPLES / 'register.csv'}"),
                *(("get", Path(folder, name)) for name in files),
                ("set", Path(folder, "a.json"), "/a=2"),
            ]
            for words in cases:
                with self.subTest(words[0]):
                    # Doubts that a standard raises are computed over a house, which starter's module knows as well.
                    without = tuple(name for name in HEAVY if words[0] != "starter" or name != "numpy")
                    done = self.start(*words, without=without)
                    self.assertEqual((done.returncode, done.stderr), (LIGHT_EXITS.get(str(words[0]), 0), ""))
                    self.assertTrue(done.stdout)

    def test_no_command_imports_a_statistics_or_media_library_before_it_computes(self) -> None:
        """The help lists every command, and so imports every module of the command line."""
        without = ("scipy", "jsonschema", "pydantic", "av", "icalendar", "recurring_ical_events", "yaml")
        listed = self.start("--help", without=without).stdout.split()
        self.assertEqual([name for name in [*COMMANDS, *GROUPS] if name not in listed], [])

    def test_the_agent_starts_without_numpy(self) -> None:
        without = ("numpy", "scipy", "jsonschema", "pydantic", "av", "opentimelineio", "icalendar", "yaml", "tomlkit")
        done = self.start("agent", "--state", "/nowhere", without=without)
        self.assertEqual(done.returncode, 1)
        self.assertIn("normant enrol", done.stderr)
