"""Looking through folders as they are found: real files, real links, real depth."""

import datetime as dt
import json
import mmap
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any
from unittest import TestCase, skipIf
from unittest.mock import patch

from normant_agent.care.open_files import open_files
from normant_agent.care.walk import LINK, LOCKED, MOUNTED, NO_FILE, Seen, keeps_access_times, walk
from normant_agent.errors import HostError

from .test_cli_trial import normant

OLD = dt.datetime(2026, 1, 5, tzinfo=dt.UTC).timestamp()


class Folder(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def put(self, name: str, content: bytes = b"frame", used: float = OLD) -> Path:
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content)
        os.utime(path, (used, used))
        return path

    def walked(self, **options: Any) -> dict[str, Seen]:
        return {seen.path: seen for seen in walk(self.folder, **options)}


class Walked(Folder):
    def test_every_file_is_seen_once_with_its_bytes_and_last_use(self) -> None:
        self.put("a/b/one", b"12345")
        self.put("two", used=OLD + 60)
        os.utime(self.folder / "two", (OLD + 300, OLD))
        seen = self.walked()
        self.assertEqual({name: (here.size, here.used) for name, here in seen.items()}, {
            "a/b/one": (5, OLD), "two": (5, OLD + 300),
        })  # fmt: skip
        self.assertEqual(self.walked(access_times=False)["two"].used, OLD)

    def test_links_are_told_and_never_followed(self) -> None:
        self.put("a/file")
        (self.folder / "loop").symlink_to(".")
        (self.folder / "a" / "out").symlink_to("/etc")
        (self.folder / "gone").symlink_to("nowhere")
        os.mkfifo(self.folder / "pipe")
        stays = {name: here.stays for name, here in self.walked().items()}
        self.assertEqual(stays, {"a/file": "", "loop": LINK, "a/out": LINK, "gone": LINK, "pipe": NO_FILE})

    def test_a_sparse_file_counts_what_it_takes_and_a_locked_one_stays(self) -> None:
        with (self.folder / "sparse").open("wb") as file:
            file.truncate(1 << 40)
        self.put("locked").chmod(0o444)
        seen = self.walked()
        self.assertEqual(seen["sparse"].size, 0)
        self.assertEqual(seen["locked"].stays, LOCKED)

    def test_any_name_and_any_depth(self) -> None:
        names = [b"\xff\xfe", b"new\nline", b"n" * 255, "Überfahrt".encode()]
        for name in names:
            Path(os.fsdecode(os.fsencode(self.folder) + b"/" + name)).write_bytes(b"x")
        depth = 3000  # far beyond what a path may hold
        script = (
            f"import os\nfor n in range({depth}): os.mkdir('folder'); os.chdir('folder')\nopen('deep', 'w').close()"
        )
        subprocess.run([sys.executable, "-c", script], cwd=self.folder, check=True)
        self.addCleanup(subprocess.run, ["rm", "-rf", str(self.folder / "folder")], check=True)
        seen = self.walked()
        self.assertEqual({os.fsencode(name) for name in seen if "/" not in name}, {*names})
        (deep,) = (name for name in seen if "/" in name)
        self.assertEqual(deep.count("/"), depth)
        before = len([*Path("/proc/self/fd").iterdir()])
        self.walked()
        self.assertEqual(len([*Path("/proc/self/fd").iterdir()]), before)

    def test_another_volume_and_what_cannot_be_read_are_told(self) -> None:
        self.put("mounted/file")
        self.put("own")
        real = os.fstat

        def elsewhere(descriptor: int) -> os.stat_result:
            status = real(descriptor)
            inode = (self.folder / "mounted").stat().st_ino
            return os.stat_result((*status[:2], status.st_dev + 1, *status[3:])) if status.st_ino == inode else status

        with patch.object(os, "fstat", elsewhere):
            self.assertEqual({n: s.stays for n, s in self.walked().items()}, {"mounted": MOUNTED, "own": ""})
        opened = os.open

        def refused(name: Any, flags: int, **where: Any) -> int:
            if name == "mounted":
                raise PermissionError(13, "no")
            return opened(name, flags, **where)

        with patch.object(os, "open", refused), patch.object(os, "supports_dir_fd", {refused}):
            self.assertIn("cannot be opened: no", self.walked()["mounted"].stays)

    def test_a_folder_that_is_moved_away_under_the_walk_ends_it(self) -> None:
        self.put("a/b/c/file")
        elsewhere = tempfile.TemporaryDirectory()
        self.addCleanup(elsewhere.cleanup)
        with self.assertRaisesRegex(HostError, "moved during the scan"):
            for seen in walk(self.folder):
                self.assertEqual(seen.path, "a/b/c/file")
                (self.folder / "a" / "b" / "c").rename(Path(elsewhere.name) / "c")

    def test_what_is_no_folder_is_refused_with_words(self) -> None:
        (self.folder / "link").symlink_to(self.folder)
        for name, words in (("nowhere", "No such file"), ("link", "name the folder that it leads to")):
            with self.subTest(name), self.assertRaisesRegex(HostError, words):
                list(walk(self.folder / name))

    def test_where_folders_cannot_be_opened_paths_serve(self) -> None:
        self.put("a/b/one")
        (self.folder / "a" / "loop").symlink_to("..")
        expected = {(seen.path, seen.stays) for seen in walk(self.folder)}
        with patch.object(os, "supports_dir_fd", set[Any]()):
            self.assertEqual({(seen.path, seen.stays) for seen in walk(self.folder)}, expected)
            with self.assertRaisesRegex(HostError, "no folder"):
                list(walk(self.folder / "a" / "b" / "one"))

    def test_open_and_mapped_files_are_known(self) -> None:
        opened, mapped = self.put("open"), self.put("mapped")
        with opened.open("rb"), mapped.open("r+b") as file, mmap.mmap(file.fileno(), 0):
            file.close()
            held = open_files()
        for path in (opened, mapped):
            status = path.stat()
            self.assertIn((status.st_dev, status.st_ino), held, path.name)
        self.assertNotIn((status.st_dev, self.put("closed").stat().st_ino), open_files())


class Planned(Folder):
    """`normant store`."""

    def lines(self, *words: object) -> dict[str, dict[str, Any]]:
        answer = normant("store", *words, "--format", "json")
        self.assertEqual(answer.exit_code, 0, answer.output)
        made = (json.loads(line) for line in answer.stdout.splitlines())
        return {line["path"]: line for line in made}

    def plan(self, *words: object, kind: str = "renders") -> dict[str, dict[str, Any]]:
        pattern = "^(?P<production>[^/]+)/(?P<project>[^/]+)/"
        as_of = ("--as-of", "2026-11-02T06:00:00+00:00")
        return self.lines("plan", self.folder, "--kind", kind, "--pattern", pattern, *as_of, *words)

    def test_delivered_projects_of_ended_productions_go_and_nothing_is_touched(self) -> None:
        for name in ("nine/reel1/a", "nine/reel2/b", "salt/reel1/c"):
            self.put(name)
        (self.folder / "nine" / "out").symlink_to("/etc")
        whys = {path: line["why"] for path, line in self.plan("--delivered", "nine/reel1", "--live", "salt").items()}
        self.assertEqual(whys, {
            "nine/reel1/a": "", "nine/reel2/b": "reel2 has no delivered export",
            "salt/reel1/c": "its production salt is live", "nine/out": LINK,
        })  # fmt: skip
        self.assertEqual(len(self.walked()), 4)

    def test_the_oldest_go_until_enough_is_free(self) -> None:
        for day in range(4):
            self.put(f"day{day}", b"x" * 1000, OLD + 86400 * day)
        goes = {path for path, line in self.plan("--free", "1.5 kB", kind="frame_cache").items() if not line["why"]}
        self.assertEqual(goes, {"day0", "day1"})
        young = self.plan("--unused-for", "400d", kind="frame_cache")
        self.assertEqual({line["verdict"] for line in young.values()}, {"kept"})
        summed = normant("store", "plan", self.folder, "--kind", "frame_cache", "--free", "1.5 kB").stderr
        self.assertIn("2 items, 2,000 bytes, can be deleted", summed)
        self.assertIn("2 items, 2,000 bytes, kept: not needed to reach the target", summed)

    def test_an_item_that_is_held_open_stays(self) -> None:
        with self.put("held").open("rb"):
            self.assertIn("open in a program", self.plan(kind="frame_cache")["held"]["why"])
        self.assertEqual(self.plan(kind="frame_cache")["held"]["verdict"], "goes")

    def test_names_that_are_no_text_are_spoken_and_a_shared_file_counts_once(self) -> None:
        self.put(os.fsdecode(b"bad\xff\nname"))
        os.link(self.put("first", b"x" * 40), self.folder / "second")
        listed = self.lines("list", self.folder)
        self.assertIn("bad\\xff\nname", listed)
        self.assertEqual(sum(line["bytes"] for line in listed.values()), 45)
        self.assertEqual({*listed["first"]}, {"path", "bytes", "used", "production", "project"})
        planned = self.plan(kind="scratch")
        self.assertEqual(sum(line["bytes"] for line in planned.values()), 45)

    def test_bad_input_is_told_and_ends_with_two(self) -> None:
        for words, words_said in [
            (("plan", "/nowhere", "--kind", "scratch"), "No such file"),
            (("plan", self.folder, "--kind", "attic"), "expected one of source_cache"),
            (("plan", self.folder, "--kind", "scratch", "--pattern", "("), "cannot be read"),
            (("plan", self.folder, "--kind", "scratch", "--free", "-4 GB"), "--free"),
            (("plan", self.folder, "--kind", "scratch", "--free", "9 GiB/s"), "--free"),
            (("plan", self.folder, "--kind", "scratch", "--unused-for", "99999999 d"), "hundred years"),
            (("plan", self.folder, "--kind", "scratch", "--as-of", "tomorrow"), "expected a moment"),
        ]:
            with self.subTest(words_said):
                answer = normant("store", *words)
                self.assertEqual((answer.exit_code, words_said in answer.output), (2, True), answer.output)


class Forecasts(Folder):
    """`normant forecast`."""

    def test_a_table_of_sizes_has_its_day(self) -> None:
        rows = [
            f"2026-10-{20 + n}T06:00:00+00:00,{size}000000000,"
            for n, size in enumerate((120, 126, 131, 139, 142, 150, 155))
        ]
        table = self.put("sizes.csv", "\n".join(["moment,bytes,event", *rows]).encode())
        answer = normant("forecast", table, "--limit", "400 GB", "--format", "json")
        made = json.loads(answer.stdout)
        self.assertEqual({*made}, {"per_day", "low", "high", "full_on", "between"})
        self.assertEqual((made["full_on"], round(made["per_day"] / 1e9, 2)), ("2026-12-07T06:00:00Z", 5.83))
        self.assertRegex(
            normant("forecast", table, "--limit", "400 GB").stdout, r"^5\.83 GB a day .* full on 7 Dec 2026"
        )
        self.assertIn(
            "no day",
            normant(
                "forecast", self.put("f.csv", b"moment,bytes\n2026-01-01,5\n2026-01-02,5"), "--limit", "1 GB"
            ).stdout,
        )

    def test_bad_tables_are_told_by_line(self) -> None:
        table = self.put("sizes.csv", b"moment,bytes\nnever,5\n")
        answer = normant("forecast", table, "--limit", "1 GB")
        self.assertEqual((answer.exit_code, "sizes.csv:2" in answer.output), (2, True))
        self.assertEqual(normant("forecast", table, "--limit", "much").exit_code, 2)


@skipIf(sys.platform == "win32", "there it is never trusted")
class AccessTimes(Folder):
    def test_a_file_system_without_them_is_known(self) -> None:
        self.assertIn(keeps_access_times(self.folder), (True, False))
        status = os.statvfs(self.folder)
        without = os.statvfs_result((*status[:8], os.ST_NOATIME, status[9]))
        with patch.object(os, "statvfs", return_value=without):
            self.assertFalse(keeps_access_times(self.folder))
