"""Databases of the tests. Migrations run once: every database is a copy of one that they made.

The copy is kept in the cluster of the tests under a name that tells the migrations, so that a run begins with what an
earlier run left. `test_migrations` and the recordings of earlier versions try the migrations themselves.
"""

import hashlib
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from urllib.parse import urlsplit, urlunsplit

import django
import psycopg
from django.apps import apps
from django.core.management import call_command
from django.db import connections
from psycopg import sql

PREFIX = "normant_migrated_"
_BUILDING = "normant_being_migrated"


def address(name: str) -> str:
    """Return the address of a database beside the one in DATABASE_URL."""
    return urlunsplit(urlsplit(os.environ["DATABASE_URL"])._replace(path=f"/{name}"))


def copy_database(name: str, template: str | None = None) -> str:
    """Create a database, as a copy of `template` or empty, in the place of one of that name; return its address."""
    with _outside() as cursor:
        _drop(cursor, name)
        copied = sql.SQL("CREATE DATABASE {}").format(sql.Identifier(name))
        cursor.execute(copied + sql.SQL(" TEMPLATE {}").format(sql.Identifier(template)) if template else copied)
    return address(name)


def drop_database(name: str) -> None:
    """Delete a database, and cut whoever is connected to it."""
    with _outside() as cursor:
        _drop(cursor, name)


def migrated() -> str:
    """Return the name of a database with every migration applied and no house in it; nobody may connect to it."""
    name = PREFIX + _digest()
    with _outside() as cursor:
        known = cursor.execute("SELECT datname FROM pg_database WHERE datname LIKE %s", [PREFIX + "%"]).fetchall()
        if (name,) in known:
            return name
        copy_database(_BUILDING)
        _migrate(_BUILDING)
        for (older,) in known:
            _drop(cursor, older)
        # Under its name only once it is whole: a run that was killed leaves none that is half migrated.
        renamed = sql.SQL("ALTER DATABASE {} RENAME TO {}")
        cursor.execute(renamed.format(sql.Identifier(_BUILDING), sql.Identifier(name)))
    return name


def _migrate(name: str) -> None:
    connection = connections["default"]
    usual = connection.settings_dict["NAME"]
    connection.close()
    connection.settings_dict["NAME"] = name
    try:
        call_command("migrate", verbosity=0, interactive=False)
    finally:
        connection.close()
        connection.settings_dict["NAME"] = usual


def _digest() -> str:
    """What decides how a migrated database looks: the migrations, and who carries them out."""
    digest = hashlib.sha256(django.__version__.encode())
    for app in apps.get_app_configs():
        for path in sorted(Path(app.path, "migrations").glob("*.py")):
            digest.update(f"{app.label} {path.name}\n".encode() + path.read_bytes())
    return digest.hexdigest()[:16]


@contextmanager
def _outside() -> Iterator[psycopg.Cursor[tuple[str]]]:
    """Whatever is done to databases is done from PostgreSQL's own."""
    with psycopg.connect(address("postgres"), autocommit=True) as connection, connection.cursor() as cursor:
        yield cursor


def _drop(cursor: psycopg.Cursor[tuple[str]], name: str) -> None:
    cursor.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(name)))
