"""News for whoever listens: PostgreSQL's NOTIFY, sent when the transaction commits. A payload is a topic and an id."""

import orjson
from django.db import connection

CHANNEL = "normant"


def tell(topic: str, subject: str) -> None:
    """Topics: seat, rollout, standard, orders (for the agent of that seat)."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, orjson.dumps({"topic": topic, "id": subject}).decode()])
