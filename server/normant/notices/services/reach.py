"""Where webhooks may go: a notice must not be a way to ask the server's own machine for things."""

import ipaddress
import socket
from urllib.parse import urlsplit

from django.conf import settings


def refused_host(address: str) -> str:
    """Why nothing is sent to this address; empty where it may be.

    A house names its hosts (`NORMANT_WEBHOOK_HOSTS`), or leaves it at any that is not this machine or its own link.
    """
    host, allowed = urlsplit(address).hostname or "", settings.NORMANT_WEBHOOK_HOSTS
    if allowed:
        return "" if host in allowed else f"{host} is not among the hosts that this house tells: {', '.join(allowed)}"
    try:
        found = {told[4][0] for told in socket.getaddrinfo(host, None)}
    except OSError:
        return f"{host} is not known to the name service: check its spelling"
    near = [told for told in sorted(map(str, found)) if _is_near(told)]
    return (
        f"{host} is {near[0]}, this machine or its link: name it in NORMANT_WEBHOOK_HOSTS to allow it" if near else ""
    )


def _is_near(told: str) -> bool:
    one = ipaddress.ip_address(told.partition("%")[0])
    one = getattr(one, "ipv4_mapped", None) or one
    return one.is_loopback or one.is_link_local or one.is_unspecified or one.is_multicast
