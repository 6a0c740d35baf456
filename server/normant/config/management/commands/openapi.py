"""`manage.py openapi`: the OpenAPI document, as docs/openapi.json keeps it."""

import json
from typing import Any

from django.core.management.base import BaseCommand

from normant.config.api import api


class Command(BaseCommand):
    help = "Print the OpenAPI document."

    def handle(self, **options: Any) -> None:
        """Sorted, so that differences are small."""
        self.stdout.write(document())


def document() -> str:
    """The text of docs/openapi.json."""
    return json.dumps(api.get_openapi_schema(path_prefix="/api/v1/"), indent=1, sort_keys=True)
