import contextlib
from collections.abc import Iterator
from io import StringIO
from typing import Any

from django.core.management import CommandError, call_command
from django.db import DatabaseError, connection, transaction
from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.ledger.models import Entry, Head
from normant.ledger.services.record import record
from normant.ledger.services.sign_head import newest_head, sign_head
from normant.ledger.services.verify import is_signed, verify
from normant.tests.house import House
from normant_core.base import chain
from normant_core.base.chain import GENESIS, read_ledger, verified


class Ledger(TestCase):
    def setUp(self) -> None:
        for number in range(3):
            record("somebody", "act", f"subject {number}", number=number, when=["ever"])

    def test_each_entry_holds_the_hash_of_the_one_before(self) -> None:
        first, second, third = Entry.objects.order_by("id")
        self.assertEqual((first.previous, second.previous, third.previous), (GENESIS, first.digest, second.digest))
        self.assertEqual(list(verify()), [])

    def test_the_database_refuses_to_change_it(self) -> None:
        entries = Entry.objects.all()
        for attempt in (lambda: entries.update(actor="nobody"), entries.delete, self.truncate):
            with self.assertRaisesRegex(DatabaseError, "append-only"), transaction.atomic():
                attempt()

    def test_verifying_tells_every_fault(self) -> None:
        first, second, third = Entry.objects.order_by("id")
        with self.unguarded() as cursor:
            cursor.execute("UPDATE ledger_entry SET actor = 'nobody' WHERE id = %s", [first.pk])
            cursor.execute("UPDATE ledger_entry SET body = 'x' WHERE id = %s", [second.pk])
            cursor.execute("UPDATE ledger_entry SET previous = digest WHERE id = %s", [third.pk])
        with self.assertRaises(CommandError) as raised:
            call_command("verify_ledger", stdout=StringIO())
        for number in (1, 2, 3):
            self.assertIn(f"entry {number} (act", str(raised.exception))

    def test_a_number_that_json_spells_in_two_ways_breaks_nothing(self) -> None:
        for value in (10000000000000000.5, 1e300, -0.0, 0.1 + 0.2, 2**62):
            record("somebody", "act", "numbers", value=value, inside=[{"value": value}])
        self.assertEqual(list(verify()), [])

    def test_an_entry_of_the_first_version_stays_verifiable(self) -> None:
        last = Entry.objects.order_by("-id")[0]
        at = timezone.now()
        old = chain.LedgerEntry(at.isoformat(), "sal", "act", "old", {"b": 1, "a": ["x"]}, last.digest, "")
        plain = {"actor": "sal", "action": "act", "subject": "old", "detail": old.detail, "previous": last.digest}
        made = Entry.objects.create(at=at, **plain, digest=chain.digest_of(old))
        record("somebody", "act", "new")
        self.assertEqual(list(verify()), [])
        with self.unguarded() as cursor:
            cursor.execute("UPDATE ledger_entry SET subject = 'other' WHERE id = %s", [made.pk])
        self.assertEqual(len(list(verify())), 1)

    def test_a_cut_end_is_found_by_a_head_that_was_signed(self) -> None:
        sign_head()
        noted = newest_head()
        assert noted
        self.assertTrue(is_signed(noted))
        self.assertIsNone(sign_head())
        with self.unguarded() as cursor:
            cursor.execute("DELETE FROM ledger_entry WHERE id = (SELECT max(id) FROM ledger_entry)")
        self.assertRegex(" ".join(verify()), "its end was cut off")
        Head.objects.all().delete()
        self.assertEqual(list(verify()), [])
        self.assertRegex(" ".join(verify(noted)), "its end was cut off")
        record("somebody", "act", "in its place")
        self.assertRegex(" ".join(verify(noted)), "another entry stood here")

    def test_a_head_that_somebody_else_signed_is_none(self) -> None:
        sign_head()
        Head.objects.update(signature=bytes(64))
        self.assertRegex(" ".join(verify()), "was not signed by the ledger's key")

    def test_given_away_the_application_cannot_switch_its_guard_off(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("CREATE ROLE ledger_owner; CREATE ROLE plain_application")
            cursor.execute("GRANT CREATE ON SCHEMA public TO ledger_owner")
        call_command("guard_ledger", "ledger_owner", application="plain_application", stdout=StringIO())
        with connection.cursor() as cursor:
            cursor.execute("SET LOCAL ROLE plain_application")
            for statement in (
                "ALTER TABLE ledger_entry DISABLE TRIGGER ledger_append_only",
                "UPDATE ledger_entry SET actor = 'x'",
                "DELETE FROM ledger_entry",
                "TRUNCATE ledger_entry",
                "CREATE OR REPLACE FUNCTION ledger_append_only() RETURNS trigger LANGUAGE sql AS 'SELECT 1'",
            ):
                with self.subTest(statement), self.assertRaises(DatabaseError), transaction.atomic():
                    cursor.execute(statement)
            cursor.execute("RESET ROLE")

    @contextlib.contextmanager
    def unguarded(self) -> Iterator[Any]:
        """As somebody who owns the table."""
        with connection.cursor() as cursor:
            cursor.execute("ALTER TABLE ledger_entry DISABLE TRIGGER USER")
            yield cursor
            cursor.execute("ALTER TABLE ledger_entry ENABLE TRIGGER USER")

    def test_handed_out_it_can_be_verified_elsewhere(self) -> None:
        house = House()
        raw = b"".join(house.client(Role.VIEWER).get("/api/v1/ledger/whole").streaming_content)  # type: ignore[attr-defined]
        entries = list(read_ledger(raw.splitlines()))
        self.assertEqual(len(entries), Entry.objects.count())
        self.assertEqual(list(verified(entries)), [])

    def truncate(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("TRUNCATE ledger_entry")
