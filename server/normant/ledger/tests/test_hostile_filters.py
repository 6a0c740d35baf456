from django.test import TestCase

from normant.tests.house import House


class HostileFilters(TestCase):
    def test_strange_words_find_nothing_and_break_nothing(self) -> None:
        client = House().client()
        for query in (
            {"actor": "\0"},
            {"seat": "\0", "action": "\u2028"},
            {"seat": '"}]'},
            {"day": "0001-01-01"},
            {"day": "9999-12-31"},
            {"day": "tomorrow"},
            {"actor": "x" * 151},
        ):
            with self.subTest(query):
                self.assertIn(client.get("/api/v1/ledger", query).status_code, (200, 422))
                self.assertLess(
                    client.get("/api/v1/round/findings", {"title": next(iter(query.values()))}).status_code, 500
                )
