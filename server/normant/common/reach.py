"""Which hosts the server itself speaks to: an address must not be a way to ask its own machine for things."""

import ipaddress
import socket
from collections.abc import Sequence
from urllib.parse import urlsplit


def refused_host(address: str, allowed: Sequence[str], variable: str) -> str:
    """Why the server does not speak to this address; empty where it may.

    A house names its hosts (in that environment variable), or leaves it at any that is not this machine or its own
    link.
    """
    host = urlsplit(address).hostname or ""
    if allowed:
        return "" if host in allowed else f"{host} is not among the hosts of this house: {', '.join(allowed)}"
    try:
        found = {told[4][0] for told in socket.getaddrinfo(host, None)}
    except OSError:
        return f"{host} is not known to the name service: check its spelling"
    near = [told for told in sorted(map(str, found)) if _is_near(told)]
    return f"{host} is {near[0]}, this machine or its link: name it in {variable} to allow it" if near else ""


def _is_near(told: str) -> bool:
    one = ipaddress.ip_address(told.partition("%")[0])
    one = getattr(one, "ipv4_mapped", None) or one
    return one.is_loopback or one.is_link_local or one.is_unspecified or one.is_multicast
