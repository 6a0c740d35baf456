"""The house's key: every order is signed with it, every agent pins its public half."""

import os
import secrets
from functools import lru_cache
from pathlib import Path

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from django.conf import settings

from normant_core.orders import Order, SignedOrder, canonical


def sign(order: Order) -> SignedOrder:
    """The order's canonical bytes with their signature (Ed25519, RFC 8032)."""
    body = canonical(order)
    return SignedOrder(body, signature(body))


def signature(body: bytes) -> bytes:
    """The house's signature of these bytes."""
    return _key(settings.NORMANT_ORDER_KEY).sign(body)


def public_key() -> bytes:
    """The 32 bytes that agents pin."""
    return _key(settings.NORMANT_ORDER_KEY).public_key().public_bytes_raw()


@lru_cache(maxsize=2)
def _key(path: Path) -> Ed25519PrivateKey:
    """The private key; made at the first start, by whichever process or thread comes first."""
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    fresh = path.with_name(f".{path.name}.{secrets.token_hex(8)}")
    if not path.exists():
        fresh.touch(mode=0o600)
        fresh.write_bytes(Ed25519PrivateKey.generate().private_bytes_raw())
        try:
            os.link(fresh, path)
        except FileExistsError:
            pass
        finally:
            fresh.unlink()
    return Ed25519PrivateKey.from_private_bytes(path.read_bytes())
