"""Exports that are finished, told of once."""

import datetime as dt
import os
from pathlib import Path
from unittest import TestCase

import msgspec

from normant_agent.exports import MOST, RESTS, new_exports
from normant_core.dialects.dialect import BoundStore
from normant_core.orders.clearing import Finished

from .bench import NOW, Bench
from .test_clearing_plans import DIALECT, FOLDERS


class FinishedExports(TestCase):
    def setUp(self) -> None:
        self.bench = Bench()
        named = BoundStore("exports", "store.exports.path", belongs=r"^(?P<production>\w+)-(?P<project>\w+)[.]mov$")
        self.bench.dialects = [msgspec.structs.replace(DIALECT, store=(named,))]
        self.bench.path.write_text(
            f"<settings><folders><exports>{FOLDERS['exports']}</exports></folders></settings>", "utf-8"
        )
        self.folder = self.bench.real(FOLDERS["exports"])
        self.folder.mkdir(parents=True)

    def put(self, name: str, *, ago: dt.timedelta = RESTS, content: bytes = b"film") -> Path:
        path, written = self.folder / name, (NOW - ago).timestamp()
        path.write_bytes(content)
        os.utime(path, (written, written))
        return path

    def news(self) -> list[Finished]:
        made = list[Finished]()
        for finished, proposed in new_exports(self.bench.work()):
            made.append(finished)
            self.bench.journal.keep_proposed(proposed)
        return made

    def test_a_finished_file_whose_name_tells_its_project_is_told_of_once(self) -> None:
        self.put("salt-one.mov")
        self.put("notes.txt")
        self.put("salt-two.mov", ago=RESTS / 2)
        self.put("salt-three.mov", content=b"")
        (self.folder / "salt-four.mov").symlink_to(self.bench.path)
        with self.put("salt-five.mov").open("rb"):
            [export] = self.news()
        self.assertEqual((export.project, export.production, export.size, len(export.digest)), ("one", "salt", 4, 64))
        self.assertEqual([e.project for e in self.news()], ["five"])
        self.assertEqual(self.news(), [])

    def test_another_file_of_the_same_name_is_told_of_as_well(self) -> None:
        self.put("salt-one.mov")
        [before] = self.news()
        self.put("salt-one.mov", content=b"another film")
        [after] = self.news()
        self.assertNotEqual(before.digest, after.digest)

    def test_many_come_a_few_at_a_time_and_what_was_not_taken_comes_again(self) -> None:
        for number in range(MOST + 3):
            self.put(f"salt-p{number}.mov")
        self.assertEqual(len([*new_exports(self.bench.work())]), MOST)  # nobody remembered that they were told
        self.assertEqual((len(self.news()), len(self.news()), len(self.news())), (MOST, 3, 0))

    def test_a_store_that_is_not_there_has_none(self) -> None:
        self.folder.rmdir()
        self.assertEqual(self.news(), [])
