"""A house that chose otherwise, for one test."""

from dataclasses import replace
from typing import Any

from django.conf import settings
from django.test import override_settings


def with_options(**changes: Any) -> override_settings:
    """A decorator or a context in which these of `settings.NORMANT` are others."""
    return override_settings(NORMANT=replace(settings.NORMANT, **changes))
