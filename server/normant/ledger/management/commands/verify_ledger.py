"""`manage.py verify_ledger`: whether the chain of the ledger is whole."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from ...models import Entry
from ...services.record import first_broken


class Command(BaseCommand):
    help = "Verify the hash chain of the ledger."

    def handle(self, **options: Any) -> None:
        """Exit 1 at the first entry that does not fit."""
        if broken := first_broken():
            raise CommandError(f"entry {broken.pk} of {broken.at:%Y-%m-%d %H:%M:%S} does not fit the one before it")
        self.stdout.write(f"{Entry.objects.count()} entries, the chain is whole")
