"""Windows and macOS, by recorded answers of their query commands."""

import tempfile
from collections.abc import Sequence
from pathlib import Path
from unittest import TestCase

from normant_agent.errors import HostError
from normant_agent.hosts.macos import MacHost
from normant_agent.hosts.rates import SPARE, measure
from normant_agent.hosts.windows import WindowsHost
from normant_agent.preferences.visit import take_survey
from normant_core.seat.survey import Survey

from . import recorded

HERE = Path("/nowhere")


class Recorded:
    """Answers from a record, and keeps what was asked."""

    def __init__(self, answers: dict[str, str]) -> None:
        self.answers, self.asked = answers, list[str]()

    def __call__(self, command: Sequence[str]) -> str:
        line = " ".join(command)
        self.asked.append(line)
        for name, answer in self.answers.items():
            if name in line:
                return answer
        raise HostError(f"{command[0]}: no such command")


def windows(answers: dict[str, str]) -> Survey:
    return take_survey(WindowsHost(HERE, asked=Recorded(answers)), "pan-03", [])


def mac(answers: dict[str, str]) -> Survey:
    return take_survey(MacHost(HERE, asked=Recorded(answers)), "pan-03", [])


class Windows(TestCase):
    def test_a_new_system_is_read_whole(self) -> None:
        survey = windows(recorded.WINDOWS_NEW)
        facts = survey.facts
        self.assertEqual((survey.errors, survey.values()["power.profile", None]), ((), "performance"))
        self.assertEqual(
            (facts.system.version, facts.cpu.model, facts.cpu.threads, facts.memory.total),
            ("10.0.26100", "Caddis C9", 20, 68501159936),
        )
        gpus = [(g.model, g.enabled, g.memory, g.driver.version, str(g.driver.released)) for g in facts.gpus or ()]
        self.assertEqual(
            gpus, [("Hadrel H60", True, None, "31.4.2", "2025-08-02"), ("Caddis i3", False, 2**30, "8.0.11", "None")]
        )
        volumes = [(v.mount, v.kind, v.free, v.system, v.removable, v.attached) for v in facts.volumes or ()]
        self.assertEqual(
            volumes,
            [
                ("C:\\", "nvme", 41_200_000_000, True, False, True),
                ("E:\\", None, None, False, True, False),
                ("Z:\\", "network", 21_000_000_000_000, False, False, True),
            ],
        )
        self.assertEqual([(d.width, d.rate) for d in facts.displays or ()], [(3840, "60/1")])

    def test_an_older_and_localised_system_too(self) -> None:
        survey = windows(recorded.WINDOWS_OLD)
        facts = survey.facts
        self.assertEqual((survey.errors, survey.values()["power.profile", None]), ((), "balanced"))
        self.assertEqual((facts.cpu.cores, facts.memory.total), (12, 2**34))
        self.assertEqual(
            [(g.memory, str(g.driver.released), g.enabled) for g in facts.gpus or ()], [(2**31, "2025-08-02", None)]
        )
        self.assertEqual([(v.kind, v.system) for v in facts.volumes or ()], [(None, True)])

    def test_what_is_broken_is_unread_with_its_reason(self) -> None:
        survey = windows(recorded.WINDOWS_BROKEN)
        messages = {error.source: error.message for error in survey.errors}
        self.assertIn("breaks off", messages["facts:system.version"])
        self.assertIn("expected JSON, got 'Zugriff verweigert'", messages["facts:memory"])
        self.assertIn("none of the system's own", messages["reading:power.profile"])
        self.assertEqual((survey.facts.cpu.cores, survey.facts.memory.total), (None, None))

    def test_a_profile_is_chosen_by_its_scheme(self) -> None:
        asked = Recorded({"powercfg": ""})
        WindowsHost(HERE, asked=asked).set_power_profile("power-saver")
        self.assertEqual(asked.asked, ["powercfg /setactive a1841308-3541-4fab-bc81-f71556f20b4a"])


class Mac(TestCase):
    def test_a_new_system_is_read_whole(self) -> None:
        survey = mac(recorded.MAC_NEW)
        facts = survey.facts
        self.assertEqual((survey.errors, survey.values()["power.profile", None]), ((), "performance"))
        self.assertEqual((facts.cpu.model, facts.cpu.cores, facts.memory.total), ("Caddis M2", 12, 64 * 2**30))
        self.assertEqual([(d.width, d.rate) for d in facts.displays or ()], [(3840, "60/1"), (4096, None)])
        volumes = [(v.mount, v.kind, v.removable, v.system, v.writable) for v in facts.volumes or ()]
        self.assertEqual(volumes, [("/", "nvme", False, True, False), ("/Volumes/Cove", "hdd", True, False, True)])
        self.assertEqual((facts.audio.inputs, facts.audio.outputs), (("Desk mic",), ("Room monitors",)))

    def test_an_older_and_localised_system_too(self) -> None:
        survey = mac(recorded.MAC_OLD)
        self.assertEqual((survey.facts.cpu.cores, survey.values()["power.profile", None]), (8, "power-saver"))
        self.assertEqual(
            [(g.model, g.kind, g.memory) for g in survey.facts.gpus or ()], [("Ostrane R7", "discrete", 12 * 2**30)]
        )
        self.assertEqual([e.source for e in survey.errors], ["facts:memory"])  # 32 Go is not guessed at

    def test_what_is_broken_is_unread_with_its_reason(self) -> None:
        survey = mac(recorded.MAC_BROKEN)
        messages = {error.source: error.message for error in survey.errors}
        self.assertIn("breaks off", messages["facts:profile"])
        self.assertIn("pmset tells neither", messages["reading:power.profile"])
        self.assertIsNone(survey.facts.volumes)


class DiskRates(TestCase):
    def test_a_short_measurement_leaves_nothing(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            rates = measure(Path(folder), 10**9, size=2**20)
            self.assertTrue(rates.read > 0 and rates.write > 0)
            self.assertEqual(list(Path(folder).iterdir()), [])

    def test_a_volume_with_little_room_is_left_alone(self) -> None:
        with tempfile.TemporaryDirectory() as folder, self.assertRaisesRegex(HostError, "too little is free"):
            measure(Path(folder), SPARE * 2**20 - 1, size=2**20)
