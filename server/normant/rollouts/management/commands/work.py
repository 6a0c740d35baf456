"""`manage.py work`: a worker; it first takes up what a worker that died left behind."""

import time
from typing import Any

import structlog
from django.core.management.base import BaseCommand
from django.db import DatabaseError, connection
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.exceptions import ConnectorException

from ...jobs import sweep

log = structlog.get_logger()
PAUSE = 2  # seconds, while the database is away


class Command(BaseCommand):
    help = "Run a worker until stopped."

    def handle(self, **options: Any) -> None:
        """Any number of workers may run, on any number of hosts; a database that is away is waited for."""
        while True:
            try:
                return self._work()
            except (ConnectorException, DatabaseError) as fault:
                log.warning("the database is away", reason=str(fault.__cause__ or fault).strip().partition("\n")[0])
                connection.close()
                time.sleep(PAUSE)

    def _work(self) -> None:
        sweep(timestamp=int(timezone.now().timestamp()))
        with app.replace_connector(app.connector.get_worker_connector()) as working:  # type: ignore[attr-defined]
            working.run_worker(concurrency=4, listen_notify=True, fetch_job_polling_interval=5)
