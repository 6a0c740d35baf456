"""The house's own keys (Ed25519, RFC 8032), in files that workers alone read: web processes know the public halves."""

import os
import secrets
from functools import lru_cache
from pathlib import Path

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey


def write_once(path: Path, content: bytes) -> bytes:
    """What a file of secrets holds: `content` where it is new. Whichever process comes first has made it, whole."""
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    if not path.exists():
        fresh = path.with_name(f".{path.name}.{secrets.token_hex(8)}")
        with os.fdopen(os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
            file.write(content)
        try:
            os.link(fresh, path)
        except FileExistsError:
            pass
        finally:
            fresh.unlink()
    return path.read_bytes()


@lru_cache(maxsize=8)
def private_key(path: Path) -> Ed25519PrivateKey:
    """The key of a file, made at the first start."""
    return Ed25519PrivateKey.from_private_bytes(write_once(path, Ed25519PrivateKey.generate().private_bytes_raw()))


def public_half(path: Path) -> bytes:
    """The 32 bytes that anybody may know."""
    return private_key(path).public_key().public_bytes_raw()
