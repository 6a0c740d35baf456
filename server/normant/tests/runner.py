"""Django's runner, in a process that is web and worker at once, over a copy of a migrated database."""

from typing import Any

from django.conf import settings
from django.db import connections
from django.test.runner import DiscoverRunner

from .databases import copy_database, drop_database, migrated

DATABASE = "test_normant"


class Runner(DiscoverRunner):
    """Tests sign by themselves what a worker would, and passwords are hashed in no time."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        """Before the first test."""
        super().setup_test_environment(**kwargs)
        settings.NORMANT_SIGNS = True
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]

    def setup_databases(self, **kwargs: Any) -> str | None:
        """Copy the database that the tests use, if any does; return the name of the one that they do not touch."""
        if "default" not in kwargs.get("aliases", ()):
            return None
        usual: str = connections["default"].settings_dict["NAME"]
        copy_database(DATABASE, migrated())
        self._use(DATABASE)
        return usual

    def teardown_databases(self, old_config: str | None, **kwargs: Any) -> None:  # type: ignore[override]
        """Delete the copy."""
        if old_config is not None:
            self._use(old_config)
            drop_database(DATABASE)

    def _use(self, name: str) -> None:
        connections["default"].close()
        settings.DATABASES["default"]["NAME"] = connections["default"].settings_dict["NAME"] = name
