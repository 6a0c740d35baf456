"""Django's runner, in a process that is web and worker at once."""

from typing import Any

from django.conf import settings
from django.test.runner import DiscoverRunner


class Runner(DiscoverRunner):
    """Tests sign by themselves what a worker would."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        """Before the first test."""
        super().setup_test_environment(**kwargs)
        settings.NORMANT_SIGNS = True
