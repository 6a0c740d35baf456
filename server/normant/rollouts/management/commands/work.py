"""`manage.py work`: a worker; it first takes up what a worker that died left behind."""

from typing import Any

from django.core.management.base import BaseCommand
from django.utils import timezone
from procrastinate.contrib.django import app

from ...jobs import sweep


class Command(BaseCommand):
    help = "Run a worker until stopped."

    def handle(self, **options: Any) -> None:
        """Any number of workers may run, on any number of hosts."""
        sweep(timestamp=int(timezone.now().timestamp()))
        with app.replace_connector(app.connector.get_worker_connector()) as working:  # type: ignore[attr-defined]
            working.run_worker(concurrency=4, listen_notify=True, fetch_job_polling_interval=5)
