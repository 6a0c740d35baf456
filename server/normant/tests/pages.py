"""Ask for every page that the API documents, of everything that a test has made."""

from collections.abc import Iterator, Mapping, Sequence

from django.test import Client, TestCase

from normant.accounts.models import AccessToken, User
from normant.accounts.permissions import Role

from .test_every_operation import documented

NAMED = {"name": "pan-03", "place": 0, "seat": "pan-03", "volume": "v0", "app": "corrow"}


def assert_pages_answer(test: TestCase, numbers: Mapping[str, Sequence[int]]) -> None:
    """Fail where a page answers with 500 or more; `numbers` are those of the rows to ask for, by the first word of
    their address (`clearings`), 1 where none is given."""
    token = AccessToken.make(User.objects.get(role=Role.ADMINISTRATOR), "pages")
    client = Client(headers={"Authorization": f"Bearer {token}"}, raise_request_exception=False)
    statuses = {path: client.get(path).status_code for path in _pages(numbers)}
    test.assertGreater(sum(status == 200 for status in statuses.values()), 60)
    test.assertEqual({path: status for path, status in statuses.items() if status >= 500}, {})


def _pages(numbers: Mapping[str, Sequence[int]]) -> Iterator[str]:
    for path, operations in documented()["paths"].items():
        needed = {part["name"] for part in operations.get("get", {}).get("parameters", ()) if part["in"] == "path"}
        if "get" not in operations or not needed <= {*NAMED, "number"} or "events" in path:
            continue
        first_word = path.removeprefix("/api/v1/").partition("/")[0]
        for number in numbers.get(first_word, [1]) if "number" in needed else [0]:
            yield path.format(**NAMED, number=number)
