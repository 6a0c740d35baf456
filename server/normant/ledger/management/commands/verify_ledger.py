"""`manage.py verify_ledger`: whether the chain of the ledger is whole."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from normant_core.base.chain import read_head
from normant_core.base.errors import DocumentError

from ...models import Entry
from ...services.verify import is_signed, verify


class Command(BaseCommand):
    help = "Verify the hash chain of the ledger, and the ends that were signed."

    def add_arguments(self, parser: CommandParser) -> None:
        """[--head FILE]."""
        parser.add_argument("--head", type=Path, help="a signed head that was noted elsewhere, as JSON")

    def handle(self, head: Path | None, **options: Any) -> None:
        """Exit 1 where anything is wrong, with every fault."""
        noted = None
        if head:
            try:
                noted = read_head(head.read_bytes(), str(head))
            except (OSError, DocumentError) as fault:
                raise CommandError(str(fault)) from fault
            if not is_signed(noted):
                raise CommandError(f"{head} was not signed by the key that it names")
        if faults := list(verify(noted)):
            raise CommandError("\n".join(faults))
        self.stdout.write(f"{Entry.objects.count()} entries, the chain is whole")
