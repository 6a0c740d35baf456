"""Delivering a notice: by mail through Django's backend, or as a signed webhook (Standard Webhooks)."""

import datetime as dt
import logging

import orjson
from django.conf import settings
from django.core.mail import EmailMessage
from django.utils import timezone
from standardwebhooks import Webhook

from normant.common.events import tell
from normant.common.reach import NotReached, Place, asked, place_of

from ..models import Delivery, Hook

log = logging.getLogger(__name__)
GONE = 410  # the receiver wants no more: Standard Webhooks asks to respect that
MOST_TRIES = 8


class NotDelivered(Exception):
    """It did not arrive; the message says why. It is tried again, for about six hours."""


def deliver(number: int) -> None:
    """Send it, once; kept is how it went. Raises NotDelivered where it is worth another try."""
    delivery = Delivery.objects.select_related("notice", "hook").filter(pk=number, state=Delivery.State.WAITING).first()
    if delivery is None:
        return
    try:
        fault = _by_mail(delivery) if delivery.by == "mail" else _by_hook(delivery)
    except Exception as unforeseen:  # whatever it was, it was a try, and somebody is to hear of it
        log.exception("not delivered", extra={"delivery": number})
        fault = f"sending failed: {type(unforeseen).__name__}; see the server's log"
    delivery.tries += 1
    delivery.fault, delivery.moved_at = fault[:300], timezone.now()
    gone = delivery.by == "hook" and (delivery.hook is None or delivery.hook.gone_at is not None)
    final = gone or delivery.tries >= MOST_TRIES
    delivery.state = (
        Delivery.State.FAILED if fault and final else Delivery.State.WAITING if fault else Delivery.State.SENT
    )
    delivery.save(update_fields=["tries", "fault", "moved_at", "state"])
    tell("notice", str(delivery.notice_id))
    if delivery.state == Delivery.State.WAITING:
        raise NotDelivered(fault)


def _by_mail(delivery: Delivery) -> str:
    """What went wrong; empty where nothing did."""
    if not settings.NORMANT.mail.leaves:
        return "this server sends no mail: NORMANT_MAIL is not set"
    notice = delivery.notice
    headers = {"Message-ID": f"<notice-{notice.pk}@normant>", "Auto-Submitted": "auto-generated"}
    letter = EmailMessage(f"Normant: {notice.subject}", notice.text, None, [delivery.to], headers=headers)
    try:
        letter.send()
    except (
        OSError,
        ValueError,
    ) as error:  # SMTP's own errors are of the first kind, letters that cannot be of the other
        return f"the mail server refused the mail: {error}"
    return ""


def _by_hook(delivery: Delivery) -> str:
    hook = delivery.hook
    if hook is None or hook.gone_at:
        return "this webhook was deleted"
    try:
        place = place_of(hook.address, settings.NORMANT.webhook_hosts, "NORMANT_WEBHOOK_HOSTS", listed=True)
        status = _post(place, hook, delivery)
    except NotReached as why:
        return str(why)
    if 200 <= status < 300:
        return ""
    if status == GONE:
        Hook.objects.filter(pk=hook.pk).update(gone_at=timezone.now())
        hook.gone_at = timezone.now()
        return "it answered 410 (unsubscribed); no more notifications will be sent"
    return f"it answered {status}; expected 200 to 299"


def _post(place: Place, hook: Hook, delivery: Delivery) -> int:
    """The status of the answer; nobody reads its body, however long it is."""
    notice, now = delivery.notice, timezone.now()
    body = orjson.dumps(
        {"type": notice.kind, "timestamp": notice.at.astimezone(dt.UTC).isoformat(), "data": notice.payload}
    )
    name = f"msg_{notice.pk}_{hook.pk}"  # the same at each try: whoever got it already knows it by this
    signature = Webhook(hook.secret).sign(name, now.astimezone(dt.UTC), body.decode())
    headers = {
        "Content-Type": "application/json",
        "webhook-id": name,
        "webhook-timestamp": str(int(now.timestamp())),
        "webhook-signature": signature,
    }
    return asked(place, "POST", headers=headers, content=body).status


def send_code(address: str, code: str) -> None:
    """The letter by which an address is confirmed. Raises NotDelivered where it is worth another try."""
    if not settings.NORMANT.mail.leaves:
        return
    text = (
        f"Your Normant confirmation code is {code}.\n\n"
        "It is valid for 1 hour. If you did not request it, ignore this mail: nothing else will be sent to you.\n"
    )
    headers = {"Auto-Submitted": "auto-generated"}
    try:
        EmailMessage("Normant: confirm this address", text, None, [address], headers=headers).send()
    except (OSError, ValueError) as fault:
        raise NotDelivered(f"the mail server refused the mail: {fault}") from fault
