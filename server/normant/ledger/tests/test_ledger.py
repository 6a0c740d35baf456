from io import StringIO

from django.core.management import CommandError, call_command
from django.db import DatabaseError, connection, transaction
from django.test import TestCase

from normant.accounts.permissions import Role
from normant.ledger.models import Entry
from normant.ledger.services.record import first_broken, record
from normant.tests.house import House
from normant_core.chain import GENESIS, fits, read_ledger


class Ledger(TestCase):
    def setUp(self) -> None:
        for number in range(3):
            record("somebody", "act", f"subject {number}", number=number, when=["ever"])

    def test_each_entry_holds_the_hash_of_the_one_before(self) -> None:
        first, second, third = Entry.objects.order_by("id")
        self.assertEqual((first.previous, second.previous, third.previous), (GENESIS, first.digest, second.digest))
        self.assertIsNone(first_broken())

    def test_the_database_refuses_to_change_it(self) -> None:
        entries = Entry.objects.all()
        for attempt in (lambda: entries.update(actor="nobody"), entries.delete, self.truncate):
            with self.assertRaisesRegex(DatabaseError, "append-only"), transaction.atomic():
                attempt()

    def test_verifying_finds_an_entry_that_was_tampered_with(self) -> None:
        second = Entry.objects.order_by("id")[1]
        with connection.cursor() as cursor:
            cursor.execute("ALTER TABLE ledger_entry DISABLE TRIGGER ledger_append_only")
            cursor.execute("UPDATE ledger_entry SET actor = 'nobody' WHERE id = %s", [second.pk])
            cursor.execute("ALTER TABLE ledger_entry ENABLE TRIGGER ledger_append_only")
        with self.assertRaisesRegex(CommandError, f"entry {second.pk} "):
            call_command("verify_ledger", stdout=StringIO())

    def test_handed_out_it_can_be_verified_elsewhere(self) -> None:
        house = House()
        raw = b"".join(house.client(Role.VIEWER).get("/api/v1/ledger/whole").streaming_content)  # type: ignore[attr-defined]
        entries = list(read_ledger(raw.splitlines()))
        self.assertEqual(len(entries), Entry.objects.count())
        previous = GENESIS
        for entry in entries:
            self.assertTrue(fits(entry, previous))
            previous = entry.digest

    def truncate(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("TRUNCATE ledger_entry")
