import hashlib
import json
import tempfile
from pathlib import Path
from unittest import TestCase

import msgspec

from normant_core.base.chain import GENESIS, LedgerEntry, digest_of

from .test_cli import run

REPORT = b'{"format": "normant-rollout-report/1"}\n'


class Ledger(TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.report = self.folder / "rollout-4.json"
        self.report.write_bytes(REPORT)
        details: list[dict[str, object]] = [{"seats": ["pan-03"]}, {"report": hashlib.sha256(REPORT).hexdigest()}, {}]
        self.entries, previous = list[LedgerEntry](), GENESIS
        for number, detail in enumerate(details):
            fresh = LedgerEntry(f"2026-03-03T07:1{number}:00+00:00", "server", "act", "rollout 4", detail, previous, "")
            self.entries.append(msgspec.structs.replace(fresh, digest=digest_of(fresh)))
            previous = self.entries[-1].digest

    def verify(self, *more: object) -> tuple[int, str]:
        file = self.folder / "ledger.ndjson"
        file.write_bytes(b"".join(msgspec.json.encode(entry) + b"\n" for entry in self.entries))
        done = run("ledger", "verify", file, *more)
        return done.exit_code, done.output

    def test_a_whole_chain_and_the_report_that_it_tells_of(self) -> None:
        code, output = self.verify("--report", self.report)
        self.assertEqual(code, 0, output)
        self.assertIn("3 entries, the chain is whole", output)
        self.assertIn("rollout 4, written down 2026-03-03T07:11", output)

    def test_an_entry_changed_left_out_or_put_elsewhere_is_found(self) -> None:
        first, second, third = self.entries
        for spoiled, number in (
            ([first, msgspec.structs.replace(second, actor="nobody"), third], 2),
            ([first, third], 2),
            ([second, third], 1),
            ([first, second, second], 3),
        ):
            with self.subTest(number):
                self.entries = spoiled
                code, output = self.verify()
                self.assertEqual(code, 1)
                self.assertIn(f"entry {number} ", output)

    def test_a_report_that_was_changed_is_found(self) -> None:
        self.report.write_bytes(REPORT.replace(b"/1", b"/2"))
        code, output = self.verify("--report", self.report)
        self.assertEqual(code, 1)
        self.assertIn("the ledger tells of no such report", output)

    def test_what_is_no_ledger_is_refused_with_its_line(self) -> None:
        file = self.folder / "bad.ndjson"
        file.write_text(json.dumps({"at": "now"}) + "\n", "utf-8")
        done = run("ledger", "verify", file)
        self.assertEqual(done.exit_code, 2)
        self.assertIn("bad.ndjson:1:1", done.output)
        self.assertEqual(run("ledger", "verify", self.folder / "none.ndjson").exit_code, 2)
