"""`manage.py serve`: the web process."""

import resource
import sys
from typing import Any

import uvicorn
from django.core.management.base import BaseCommand, CommandParser

from ...shell.connections import how_to_serve


class Command(BaseCommand):
    help = "Serve the interface, the API and the agents' door until interrupted."
    requires_system_checks = ()

    def add_arguments(self, parser: CommandParser) -> None:
        """[--host ADDRESS] [--port NUMBER]."""
        parser.add_argument("--host", default="127.0.0.1", help="address to listen at; a proxy stands before it")
        parser.add_argument("--port", default=8400, type=int)

    def handle(self, host: str, port: int, **options: Any) -> None:
        """Until SIGTERM or SIGINT."""
        _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
        resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))  # a connection is an open file
        # A thread that comes back from the database waits this long for one that computes, at each question anew.
        sys.setswitchinterval(0.001)
        uvicorn.run("normant.config.asgi:application", **how_to_serve(host=host, port=port))
