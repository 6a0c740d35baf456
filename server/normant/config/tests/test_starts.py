"""What the server's processes import before anybody asks anything of them."""

import os
import subprocess
import sys
from unittest import TestCase

from normant.tests.served import SERVER

# Each is needed by one kind of request or job, and imported by the first of that kind.
LATER = (
    *("scipy", "fpdf", "fontTools", "PIL", "openpyxl", "icalendar", "recurring_ical_events", "jsonschema", "rich"),
    *("httpx", "opentimelineio", "av", "yaml", "hypothesis"),
)
HOOKED = """
import sys
refused = frozenset(sys.argv.pop(1).split(","))
class Refusing:
    def find_spec(self, name, path=None, target=None):
        if name.partition(".")[0] in refused or name in refused:
            raise AssertionError(f"{name} was imported")
sys.meta_path.insert(0, Refusing())
import django
django.setup()
"""


class Starts(TestCase):
    def start(self, text: str, *without: str) -> str:
        """Run a line of Python with Django set up, where neither `without` nor what comes later can be imported."""
        env = {**os.environ, "DJANGO_SETTINGS_MODULE": "normant.config.settings", "PYTHONPATH": str(SERVER)}
        command = [sys.executable, "-c", HOOKED + text, ",".join((*LATER, *without))]
        return subprocess.run(command, env=env, capture_output=True, text=True, check=False).stderr

    def test_the_hook_refuses_a_module(self) -> None:
        self.assertIn("openpyxl was imported", self.start("import openpyxl"))

    def test_checks_and_the_web_process_import_nothing_that_only_some_requests_need(self) -> None:
        self.assertEqual(self.start("from django.core.management import call_command; call_command('check')"), "")
        self.assertEqual(self.start("import normant.config.asgi, normant.config.urls"), "")

    def test_a_worker_imports_no_route_of_the_api(self) -> None:
        text = "from django.core.management import load_command_class as load; load('normant.rollouts', 'work')"
        self.assertEqual(self.start(text, "normant.config.api", "normant.config.urls"), "")
