"""The same act twice: under one key of the caller's it is done once, and answered alike."""

import hashlib
import re
from collections.abc import Callable

from django.db import transaction
from django.http import HttpRequest, HttpResponse

from normant.common.locks import lock
from normant.common.problems import Problem, respond

from .auth import caller
from .models import Act, User

_KEY = re.compile(r"[\x21-\x7e]{1,80}")
_CHANGING = ("POST", "PUT", "PATCH", "DELETE")
LARGEST = 64 * 1024  # bytes of an answer that is kept
# What counts attempts is never taken back, so these acts have no keys: one that is sent with them is left aside.
COUNTING = re.compile(r"/api/v1/(session(/password)?|account/password|notices/confirm)")
_SHOWN = Problem(409, "Done already", "this Idempotency-Key has been used; its secret is shown only once")


class OneAct:
    """`Idempotency-Key`, as the IETF's draft of that header has it. What was done and what was answered are committed
    together: a process that dies between the two has done nothing. An answer with a secret in it is not kept: whoever
    asks again is told that it was done."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        key = request.headers.get("Idempotency-Key")
        if key is None or request.method not in _CHANGING or COUNTING.fullmatch(request.path_info):
            return self.get_response(request)
        try:
            who = _owner(request, key)
        except Problem as problem:
            return respond(problem)
        return self._once(request, who, key)

    def _once(self, request: HttpRequest, who: str, key: str) -> HttpResponse:
        asked = hashlib.sha256(f"{request.method} {request.get_full_path()}\n".encode() + request.body).hexdigest()
        with transaction.atomic():
            lock("act", [f"{who} {key}"])
            if act := Act.objects.filter(who=who, key=key).first():
                return _again(act, asked)
            answer = self.get_response(request)
            if answer.status_code >= 400 or answer.streaming or len(answer.content) > LARGEST:
                transaction.set_rollback(answer.status_code >= 400)
                return answer
            storable = respond(_SHOWN) if getattr(request, "shown_once", False) else answer
            kind = storable.get("Content-Type", "")[:80]
            Act.objects.create(
                who=who, key=key, request=asked, status=storable.status_code, kind=kind, body=storable.content
            )
        return answer


def _owner(request: HttpRequest, key: str) -> str:
    """Return whose key this is. Raises Problem where it is none, has no owner, or comes with files."""
    if not _KEY.fullmatch(key):
        raise Problem(422, "No key", "Idempotency-Key: expected 1 to 80 letters, digits and signs")
    if (request.content_type or "").startswith("multipart/"):
        raise Problem(422, "No key", "Idempotency-Key: not supported for uploads; remove the header")
    if not request.headers.get("Authorization") and not isinstance(request.user, User):
        raise Problem(422, "No key", "Idempotency-Key: sign in first, or send a token")
    return f"person {caller(request).pk}"


def _again(act: Act, asked: str) -> HttpResponse:
    if act.request != asked:
        return respond(Problem(422, "Key used", "this Idempotency-Key was used for another request: choose a new one"))
    answer = HttpResponse(bytes(act.body), status=act.status, headers={"Idempotent-Replay": "true"})
    if act.kind:
        answer["Content-Type"] = act.kind
    else:
        del answer["Content-Type"]
    return answer
