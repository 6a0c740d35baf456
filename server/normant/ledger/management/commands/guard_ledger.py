"""`manage.py guard_ledger ROLE`: give the ledger's table to another role of the database than the application's."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import DatabaseError, connection, transaction
from psycopg import sql

# Who owns a table may switch its triggers off. Afterwards the application may read and add, and nothing else.
STATEMENTS = (
    "ALTER TABLE ledger_entry OWNER TO {owner}",
    "ALTER FUNCTION ledger_append_only() OWNER TO {owner}",
    "REVOKE ALL ON ledger_entry FROM {application}",
    "GRANT SELECT, INSERT ON ledger_entry TO {application}",
    "GRANT USAGE, SELECT ON SEQUENCE ledger_entry_id_seq TO {application}",
)


class Command(BaseCommand):
    help = "Give the ledger's table to a role of its own, so that the application cannot switch its guard off."

    def add_arguments(self, parser: CommandParser) -> None:
        """ROLE [--application ROLE]."""
        parser.add_argument("role", help="an existing role of the database, without a login")
        parser.add_argument("--application", default="", help="the application's role (the one that this runs as)")

    def handle(self, role: str, application: str, **options: Any) -> None:
        """All of it or nothing."""
        try:
            with transaction.atomic(), connection.cursor() as cursor:
                if not application:
                    cursor.execute("SELECT current_user")
                    application = cursor.fetchone()[0]
                names = {"owner": sql.Identifier(role), "application": sql.Identifier(application)}
                for statement in STATEMENTS:
                    cursor.execute(sql.SQL(statement).format(**names))
        except DatabaseError as fault:
            message = str(fault).strip().partition("\n")[0]
            raise CommandError(f"{message}; run this as a role that may give the table away") from fault
        self.stdout.write(f"the ledger belongs to {role}; {application} may read it and add to it")
