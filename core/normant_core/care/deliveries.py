"""Which projects have a delivered export: by these alone renders and backups may go.

A delivery belongs to a production, a project and an application. Two productions may each have a project `one`, so the
project's name alone releases nothing, unless the house knows that name in one production only.
"""

from collections.abc import Iterable
from functools import lru_cache
from typing import Annotated

import msgspec
from msgspec import Meta

Name = Annotated[str, Meta(min_length=1, max_length=120)]


class ProjectOfProduction(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A project by its production."""

    production: Name
    project: Name


class DeliveredProject(ProjectOfProduction, frozen=True):
    """A project with a delivered export, and the application that made it.

    `name_is_unique`: the house knows a project of this name in no other production, so that the delivery also counts
    for files whose path tells the project alone.
    """

    app: Annotated[str, Meta(min_length=1, max_length=64)]
    name_is_unique: bool = False


class Deliveries:
    """The delivered projects of one application."""

    def __init__(self, delivered: Iterable[DeliveredProject] = (), app: str = "") -> None:
        own = [row for row in delivered if row.app == app]
        self._by_key = {(name_key(row.production), row.project): row for row in own}
        self._by_unique_name = {row.project: row for row in own if row.name_is_unique}

    def find(self, production: str, project: str) -> ProjectOfProduction | None:
        """The delivery that releases a file, None where there is none; `production` is empty where its path tells none.

        It is named as the house names it, whatever the folder calls the production.
        """
        by_key, by_name = self._by_key, self._by_unique_name
        row = by_key.get((name_key(production), project)) if production else by_name.get(project)
        return row and ProjectOfProduction(row.production, row.project)


@lru_cache(maxsize=4096)
def name_key(production: str) -> str:
    """Letters and digits of a production's name alone: folders write it otherwise than people do."""
    return "".join(sign for sign in production.casefold() if sign.isalnum())
