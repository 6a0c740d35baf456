"""The machine that the tests run on, against psutil and the system's own files."""

import platform
import tempfile
from pathlib import Path
from unittest import TestCase

import psutil
from msgspec import json

from normant_agent.errors import HostError
from normant_agent.hosts.linux import LinuxHost
from normant_agent.hosts.linux_power import PowerProfiles
from normant_agent.preferences.visit import take_survey
from normant_core.seat.survey import parse_survey

from .bench import BEFORE, DIALECT, FILE


class ThisMachine(TestCase):
    def setUp(self) -> None:
        self.preferences = Path(tempfile.mkdtemp())
        self.survey = take_survey(LinuxHost(self.preferences), "this", [DIALECT])

    def test_its_survey_is_valid_and_true(self) -> None:
        facts = parse_survey(json.encode(self.survey)).facts
        self.assertEqual(facts.memory.total, psutil.virtual_memory().total)
        self.assertEqual((facts.cpu.cores, facts.cpu.threads), (psutil.cpu_count(logical=False), psutil.cpu_count()))
        self.assertEqual(facts.system.version, platform.freedesktop_os_release().get("VERSION_ID"))
        root = next(v for v in facts.volumes or () if v.mount == "/")
        self.assertEqual((root.capacity, root.system), (psutil.disk_usage("/").total, True))

    def test_what_cannot_be_read_is_told_with_its_reason(self) -> None:
        sources = {error.source for error in self.survey.errors}
        read = {r.setting for r in self.survey.readings}
        self.assertTrue(("power.profile" in read) != ("reading:power.profile" in sources))
        self.assertEqual(self.survey.facts.gpus is None, "facts:gpus" in sources)
        self.assertTrue(all(error.message for error in self.survey.errors))

    def test_an_application_is_installed_where_its_preferences_are(self) -> None:
        self.assertEqual(self.survey.facts.applications, ())
        path = self.preferences / FILE
        path.parent.mkdir(parents=True)
        path.write_bytes(BEFORE)
        again = take_survey(LinuxHost(self.preferences), "this", [DIALECT])
        self.assertIn(("memory.held_back", 1536 * 2**20), {(r.setting, r.value) for r in again.readings})


class PowerProfile(TestCase):
    def setUp(self) -> None:
        self.root = Path(tempfile.mkdtemp())

    def write(self, path: str, text: str) -> Path:
        made = self.root / path
        made.parent.mkdir(parents=True, exist_ok=True)
        made.write_text(text)
        return made

    def test_the_firmwares_profile_comes_first(self) -> None:
        chosen = self.write("sys/firmware/acpi/platform_profile", "low-power\n")
        self.write("sys/firmware/acpi/platform_profile_choices", "low-power balanced performance\n")
        profiles = PowerProfiles(self.root)
        self.assertEqual(
            (profiles.current(), profiles.offered()), ("power-saver", ("power-saver", "balanced", "performance"))
        )
        profiles.choose("performance")
        self.assertEqual(chosen.read_text(), "performance")

    def test_else_every_processors_governor(self) -> None:
        for number in (0, 1):
            folder = f"sys/devices/system/cpu/cpu{number}/cpufreq"
            self.write(f"{folder}/scaling_governor", "schedutil\n")
            self.write(f"{folder}/scaling_available_governors", "performance schedutil\n")
        profiles = PowerProfiles(self.root)
        self.assertEqual(profiles.current(), "balanced")
        profiles.choose("performance")
        self.assertEqual(profiles.current(), "performance")
        with self.assertRaisesRegex(HostError, "offers no power profile 'power-saver'"):
            profiles.choose("power-saver")

    def test_a_machine_without_either_says_so(self) -> None:
        with self.assertRaisesRegex(HostError, "platform_profile"):
            PowerProfiles(self.root).current()
