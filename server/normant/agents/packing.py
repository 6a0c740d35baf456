"""Bodies as they come over the wire."""

import zlib

from normant.common.problems import Problem
from normant_core.seat.survey import LIMIT_BYTES


def unpacked(raw: bytes, encoding: str) -> bytes:
    """The body without its gzip, at most LIMIT_BYTES. Raises Problem where it is none, larger, or cut off."""
    if encoding != "gzip":
        return raw
    unpacker = zlib.decompressobj(wbits=zlib.MAX_WBITS | 16)
    try:
        plain = unpacker.decompress(raw, LIMIT_BYTES + 1)
    except zlib.error as fault:
        raise Problem(400, "Not gzip", "the body is not valid gzip") from fault
    if len(plain) > LIMIT_BYTES:
        raise too_large()
    if not unpacker.eof:
        raise Problem(400, "Not whole", "the gzip body ends too early: send it again")
    return plain


def too_large() -> Problem:
    """A body beyond the bound."""
    return Problem(413, "Too large", f"a survey has at most {LIMIT_BYTES:,} bytes")
