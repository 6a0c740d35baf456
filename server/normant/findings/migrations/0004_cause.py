"""The cause of each finding that is open, as core keys it."""

from typing import Any

import msgspec
from django.db import migrations, models
from django.db.models import Q

from normant_core.judging.groups import cause_key
from normant_core.judging.judge import Verdict

BATCH = 2_000


def key_open(apps: Any, schema_editor: Any) -> None:
    """Closed findings have none: nobody groups them."""
    findings = apps.get_model("findings", "Finding")
    rows, batch = findings.objects.filter(closed_at=None).only("pk", "verdict").iterator(BATCH), []
    for row in rows:
        try:
            row.cause = cause_key(msgspec.convert(row.verdict, Verdict))
        except msgspec.ValidationError:
            continue  # of a version that nobody reads any more: the seat's next survey judges it anew
        batch.append(row)
        if len(batch) == BATCH:
            findings.objects.bulk_update(batch, ["cause"])
            batch = []
    findings.objects.bulk_update(batch, ["cause"])


class Migration(migrations.Migration):
    """Adds the column, fills it, and makes the index that groups by it."""

    dependencies = [("findings", "0003_told_at")]

    operations = [
        migrations.AddField("finding", "cause", models.CharField(max_length=16, default=""), preserve_default=False),
        migrations.RunPython(key_open, migrations.RunPython.noop),
        migrations.AddIndex(
            "finding",
            models.Index(
                fields=["cause", "seat", "id"], name="finding_causes", condition=Q(closed_at=None, waiver=None)
            ),
        ),
    ]
