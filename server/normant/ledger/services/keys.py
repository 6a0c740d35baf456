"""The public halves of the house's keys, as workers told them."""

from normant_core.base.chain import fingerprint

from ..models import HouseKey


def fingerprint_of(name: str) -> str:
    """What people compare; empty before a worker told the key."""
    known = HouseKey.objects.filter(name=name).first()
    return fingerprint(bytes(known.public)) if known else ""
