import errno
import os
import struct
import tempfile
from pathlib import Path
from unittest import TestCase, mock

from normant_agent.errors import AgentError, HostError
from normant_agent.files import inside, write_atomically
from normant_agent.identity import Identity, load, save
from normant_agent.journal import Entry, Journal
from normant_agent.preferences.visit import preference_files, take_survey
from normant_core.dialects.dialect import parse_dialect
from normant_core.formats.span import LIMIT_BYTES
from normant_core.orders.kinds import Receipt

from .bench import BEFORE, DIALECT, EXAMPLES, FILE, Bench

KNOWN = Identity("http://here", "pan-03", "secret token", b"k" * 32)


class Writing(TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.path = self.folder / "preferences.xml"
        self.path.write_bytes(BEFORE)

    def test_mode_and_owner_stay(self) -> None:
        self.path.chmod(0o640)
        if os.geteuid() == 0:
            os.chown(self.path, 65534, 65534)
        before = self.path.stat()
        write_atomically(self.path, b"new")
        after = self.path.stat()
        self.assertEqual((after.st_mode, after.st_uid, after.st_gid), (before.st_mode, before.st_uid, before.st_gid))

    def test_until_it_is_whole_nobody_else_reads_it(self) -> None:
        seen = list[int]()
        fsync = os.fsync
        self.path.chmod(0o600)

        def watched(handle: int) -> None:
            seen.extend(path.stat().st_mode & 0o777 for path in self.folder.iterdir())
            fsync(handle)

        with mock.patch("os.fsync", watched):
            write_atomically(self.path, b"new")
        self.assertEqual(set(seen), {0o600})
        fresh = self.folder / "fresh"
        write_atomically(fresh, b"x")
        self.assertEqual(fresh.stat().st_mode & 0o777, 0o600)

    def test_access_list_and_attributes_stay(self) -> None:
        # Owner rw, user 65534 rw, group r, mask rw: the mode shows the mask in the place of the group.
        entries = [(1, 6, -1), (2, 6, 65534), (4, 4, -1), (16, 6, -1), (32, 0, -1)]
        listed = struct.pack("<I", 2) + b"".join(
            struct.pack("<HHI", tag, may, who & 0xFFFFFFFF) for tag, may, who in entries
        )
        try:
            os.setxattr(self.path, "system.posix_acl_access", listed)
            os.setxattr(self.path, "user.house", b"kept")
        except OSError as fault:
            self.skipTest(f"this file system keeps none: {fault}")
        before = self.path.stat().st_mode
        write_atomically(self.path, b"new")
        self.assertEqual(os.getxattr(self.path, "system.posix_acl_access"), listed)
        self.assertEqual((os.getxattr(self.path, "user.house"), self.path.stat().st_mode), (b"kept", before))

    def test_a_link_stays_one_and_its_end_is_written(self) -> None:
        link = self.folder / "link.xml"
        link.symlink_to(self.path)
        write_atomically(link, b"new")
        self.assertTrue(link.is_symlink())
        self.assertEqual(self.path.read_bytes(), b"new")

    def test_what_somebody_planted_in_its_place_is_not_followed(self) -> None:
        bait = self.folder / "bait"
        bait.write_bytes(b"theirs")
        (self.folder / ".preferences.xml.normant-new").symlink_to(bait)
        write_atomically(self.path, b"new")
        self.assertEqual((self.path.read_bytes(), bait.read_bytes()), (b"new", b"theirs"))
        self.assertFalse(self.path.is_symlink())

    def test_neither_names_nor_links_lead_to_starters_or_secrets(self) -> None:
        for place in ("autostart", "corrow", "keyrings"):
            (self.folder / place).mkdir()
            (self.folder / place / "x.ini").write_bytes(b"x")
        (self.folder / "corrow" / "link.ini").symlink_to(self.folder / "autostart" / "x.ini")
        (self.folder / "corrow" / "folder").symlink_to(self.folder / "keyrings")
        for path in ("autostart/x.ini", "corrow/link.ini", "corrow/folder/x.ini", ".bashrc"):
            with self.subTest(path), self.assertRaisesRegex(HostError, "not touched"):
                inside(self.folder, path, "corrow")
        self.assertTrue(inside(self.folder, "corrow/x.ini", "corrow"))
        (self.folder / "corrow" / "Cookies").touch()
        with self.assertRaisesRegex(HostError, "called like a secret"):
            inside(self.folder, "corrow/x.ini", "corrow")

    def test_a_full_disk_leaves_the_old_file_and_nothing_else(self) -> None:
        full = OSError(errno.ENOSPC, "No space left on device")
        with mock.patch("os.fsync", side_effect=full), self.assertRaisesRegex(HostError, "No space left"):
            write_atomically(self.path, b"new")
        self.assertEqual((self.path.read_bytes(), list(self.folder.iterdir())), (BEFORE, [self.path]))

    def test_no_way_leads_out_of_the_preference_root(self) -> None:
        (self.folder / "away").symlink_to("/etc")
        for path in ("../x", "away/passwd", "a/../../x", "/etc/passwd"):
            with self.subTest(path), self.assertRaisesRegex(HostError, "leads out"):
                inside(self.folder, path)
        self.assertEqual(inside(self.folder, "a/../b"), self.folder / "a/../b")


class Templates(TestCase):
    """A dialect's name that stands for every file of a folder."""

    def setUp(self) -> None:
        text = (EXAMPLES / "corrow.dialect.toml").read_text("utf-8").replace(FILE, "corrow/8/*.xml", 1)
        self.bench, self.many = Bench(), parse_dialect(text)

    def test_every_one_is_read_and_watched(self) -> None:
        other = self.bench.path.with_name("promo.xml")
        self.assertEqual(len(preference_files(self.bench, [self.many])), len(self.many.file))
        other.write_bytes(BEFORE)
        self.assertIn(other, preference_files(self.bench, [self.many]))
        self.assertEqual(self._held(), (1536 * 2**20, ""))
        other.write_bytes(BEFORE.replace(b"1536", b"2048"))
        self.assertIn("promo.xml says 2 GiB", self._held()[1])
        other.unlink()
        other.symlink_to("/etc/hostname")
        self.assertIn("leads out", self._held("dialect:corrow")[1])

    def _held(self, source: str = "dialect:corrow:memory.held_back") -> tuple[object, str]:
        survey = take_survey(self.bench, "pan-03", [self.many])
        value = next((r.value for r in survey.readings if r.setting == "memory.held_back"), None)
        return value, next((e.message for e in survey.errors if e.source == source), "")


class Memory(TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.journal = Journal(self.folder)

    def test_the_first_copy_is_kept(self) -> None:
        self.journal.keep("a", b"first")
        self.journal.keep("a", b"second")
        self.assertEqual(Journal(self.folder).copy_of("a"), b"first")
        with self.assertRaises(HostError):
            self.journal.copy_of("b")

    def test_receipts_that_were_not_sent_are_remembered_in_order(self) -> None:
        for number in ("z", "a"):
            self.journal.put(Entry(number, receipt=Receipt(number, "done")))
            os.utime(self.folder / "journal" / f"{number}.json", ns=(1, 10**18 + len(self.journal.unsent())))
        self.journal.put(Entry("sent", receipt=Receipt("sent", "done"), sent=True))
        self.journal.put(Entry("begun"))
        self.assertEqual([entry.order for entry in Journal(self.folder).unsent()], ["z", "a"])

    def test_an_orders_name_is_no_path(self) -> None:
        for name in ("../a", "a/b", "", "a b"):
            with self.subTest(name), self.assertRaisesRegex(HostError, "no order's name"):
                self.journal.get(name)

    def test_the_identity_is_for_its_user_alone(self) -> None:
        save(self.folder, KNOWN)
        self.assertEqual(load(self.folder), KNOWN)
        self.assertEqual((self.folder / "identity.json").stat().st_mode & 0o777, 0o600)

    def test_a_damaged_identity_says_what_to_do(self) -> None:
        (self.folder / "identity.json").write_text("{")
        with self.assertRaisesRegex(AgentError, "enrol again"):
            load(self.folder)


class Visits(TestCase):
    def setUp(self) -> None:
        self.bench = Bench()

    def errors(self) -> list[tuple[str, str]]:
        survey = take_survey(self.bench, "pan-03", [DIALECT])
        return [(error.source, error.message) for error in survey.errors]

    def test_what_is_there_is_read_with_its_place(self) -> None:
        survey = take_survey(self.bench, "pan-03", [DIALECT])
        held = next(r for r in survey.readings if r.setting == "memory.held_back")
        assert held.native
        self.assertEqual((held.value, held.native.raw, held.native.line), (1536 * 2**20, "1536", 3))
        self.assertEqual(self.errors(), [])

    def test_a_file_that_cannot_be_read_makes_the_application_unread(self) -> None:
        def grow(path: Path) -> None:
            with path.open("ab") as file:
                file.truncate(LIMIT_BYTES + 1)

        for spoil, words in (
            (grow, "at most"),
            (Path.unlink, "there is no such file"),
            (lambda path: path.write_bytes(BEFORE[:-10]), "line"),
            (lambda path: path.write_bytes(b"\xff\xfe\x00"), "text"),
        ):
            self.bench = Bench()
            spoil(self.bench.path)
            with self.subTest(words):
                ((source, message),) = self.errors()
                self.assertEqual(source, "dialect:corrow")
                self.assertIn(words, message)
