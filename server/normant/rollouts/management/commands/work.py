"""`manage.py work`: a worker; it first takes up what a worker that died left behind."""

import time
from typing import Any

import structlog
from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import DatabaseError, connection
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.exceptions import ConnectorException

from normant.common.keys import public_half
from normant.orders.services.sign import publish_key
from normant_core.base.chain import fingerprint
from normant_core.base.structs import learn_structs

from ...jobs import sweep

log = structlog.get_logger()
PAUSE = 2  # seconds, while the database is away


class Command(BaseCommand):
    help = "Run a worker until stopped."

    def handle(self, **options: Any) -> None:
        """Any number of workers may run, on any number of hosts; a database that is away is waited for."""
        settings.NORMANT_SIGNS = True
        learn_structs()
        key = public_half(settings.NORMANT.order_key)
        self.stderr.write(f"worker: orders are signed by the key {fingerprint(key)}")
        while True:
            try:
                return self._work()
            except (ConnectorException, DatabaseError) as fault:
                log.warning("the database is away", reason=str(fault.__cause__ or fault).strip().partition("\n")[0])
                connection.close()
                time.sleep(PAUSE)

    def _work(self) -> None:
        publish_key()
        sweep(timestamp=int(timezone.now().timestamp()))
        with app.replace_connector(app.connector.get_worker_connector()) as working:  # type: ignore[attr-defined]
            working.run_worker(concurrency=4, listen_notify=True, fetch_job_polling_interval=5)
