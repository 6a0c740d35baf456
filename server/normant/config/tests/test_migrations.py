"""A database of the version before, migrated with its data."""

from typing import Any

import msgspec
from django.apps import apps
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.test import TestCase

from normant.findings.models import Finding
from normant.tests.house import House, survey
from normant_core.judging.groups import cause_key
from normant_core.judging.judge import Verdict

# Where the tables of 0.3.0 stood: what came since is migrated below, on rows that a house of then has.
BEFORE = [("findings", "0003_told_at")]


class FromTheVersionBefore(TestCase):
    """Within the transaction of a test: PostgreSQL takes back what a migration did as well."""

    def _migrate(self, targets: list[tuple[str, str]] | None) -> None:
        with connection.cursor() as cursor:
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")  # a table with checks that wait cannot be altered
        executor = MigrationExecutor(connection)
        executor.migrate(targets or executor.loader.graph.leaf_nodes())

    def _rows(self) -> dict[str, list[Any]]:
        """Every row of our tables, without what was added since."""
        rows = {}
        for model in apps.get_models():
            if model.__module__.startswith("normant."):
                fields = [f.attname for f in model._meta.concrete_fields if f.name != "cause"]
                rows[model._meta.label] = list(model._base_manager.order_by("pk").values(*fields))
        return rows

    def test_no_row_is_lost_and_open_findings_get_their_cause(self) -> None:
        house = House()
        house.send(survey(minutes=-20))
        house.send(survey(minutes=-10, memory__held_back=7 * 2**30))
        self.assertTrue(Finding.objects.closed().exists() and Finding.objects.open().exists())
        before = self._rows()
        self._migrate(BEFORE)
        with connection.cursor() as cursor:
            cursor.execute("SELECT count(*) FROM information_schema.columns WHERE column_name = 'cause'")
            columns = cursor.fetchone()
        self._migrate(None)
        after = self._rows()
        self.assertGreater(sum(map(len, before.values())), 40)
        self.assertEqual(columns, (1,))  # that of readings alone
        self.assertEqual(after, before)
        for finding in Finding.objects.all():
            key = "" if finding.closed_at else cause_key(msgspec.convert(finding.verdict, Verdict))
            self.assertEqual(finding.cause, key, finding.setting)

    def test_what_nobody_can_read_any_more_stops_no_migration(self) -> None:
        house = House()
        house.send(survey(minutes=-10))
        self._migrate(BEFORE)
        with connection.cursor() as cursor:
            cursor.execute("UPDATE findings_finding SET verdict = '{}'")
        self._migrate(None)
        self.assertEqual(set(Finding.objects.values_list("cause", flat=True)), {""})
        house.send(survey(minutes=-1, memory__held_back=3 * 2**30))
        self.assertNotIn("", Finding.objects.open().values_list("cause", flat=True))
