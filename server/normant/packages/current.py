"""The driver packages that plans may use."""

from normant_core.orders.packages import Package as CorePackage

from .models import Package


def packages() -> list[CorePackage]:
    """The driver packages that plans may use."""
    held = Package.objects.filter(withdrawn_at=None)
    return [CorePackage(tuple(p.serves), p.platform, p.version, p.branch, p.digest, p.size) for p in held]
