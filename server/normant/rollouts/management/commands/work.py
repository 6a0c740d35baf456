"""`manage.py work`: a worker; it first takes up what a worker that died left behind."""

import asyncio
import contextlib
import logging
import signal
import time
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import DatabaseError, connection
from django.utils import timezone
from procrastinate import App
from procrastinate.contrib.django import app
from procrastinate.exceptions import ConnectorException

from normant.common.keys import public_half
from normant.orders.services.sign import publish_key
from normant_core.base.chain import fingerprint
from normant_core.base.structs import learn_structs

from ...jobs import sweep

log = logging.getLogger(__name__)
PAUSE = 2  # seconds, while the database is away


class Command(BaseCommand):
    help = "Run a worker until stopped."
    requires_system_checks = ()  # they import the whole API, of which a worker needs nothing

    def handle(self, **options: Any) -> None:
        """Any number of workers may run, on any number of hosts; a database that is away is waited for."""
        settings.NORMANT_SIGNS = True
        learn_structs()
        key = public_half(settings.NORMANT.order_key)
        self.stderr.write(f"worker: orders are signed by the key {fingerprint(key)}")
        self._asked = False
        while not self._asked:
            try:
                self._work()
            except (ConnectorException, DatabaseError) as fault:
                log.warning(
                    "the database is away", extra={"reason": str(fault.__cause__ or fault).strip().partition("\n")[0]}
                )
            connection.close()
            if not self._asked:
                time.sleep(PAUSE)

    def _work(self) -> None:
        publish_key()
        sweep(timestamp=int(timezone.now().timestamp()))
        with app.replace_connector(app.connector.get_worker_connector()) as working:  # type: ignore[attr-defined]
            asyncio.run(self._until_stopped(working))

    async def _until_stopped(self, working: App) -> None:
        """Until somebody asks for the end. The library ends by itself, and without a word, when the connection breaks
        on which it listens: that is no end, and whoever calls begins again."""
        async with working.open_async():
            running = working.run_worker_async(
                concurrency=4, listen_notify=True, fetch_job_polling_interval=5, install_signal_handlers=False
            )
            work = asyncio.create_task(running)

            def stop() -> None:
                self._asked = True
                work.cancel()

            for name in (signal.SIGINT, signal.SIGTERM):
                asyncio.get_running_loop().add_signal_handler(name, stop)
            with contextlib.suppress(asyncio.CancelledError):
                await work
