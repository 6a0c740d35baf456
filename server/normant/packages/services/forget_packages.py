"""Letting go of packages' bytes that nobody approved, and of what a killed upload left."""

import contextlib
import datetime as dt
import re

from django.conf import settings
from django.utils import timezone

from normant.proposals.models import Proposal

from ..models import Package

AFTER = dt.timedelta(days=1)
_OURS = re.compile(r"[0-9a-f]{64}|\.\d+-\d+\.part")  # nothing else is touched, wherever the folder is said to be


def forget_packages() -> None:
    """Files of a day ago that neither a package, withdrawn ones among them, nor a waiting proposal names."""
    waiting = Proposal.objects.filter(kind="keep_package", decided_at=None).values_list("body__digest", flat=True)
    named = {*Package.objects.values_list("digest", flat=True), *waiting}
    old = (timezone.now() - AFTER).timestamp()
    with contextlib.suppress(FileNotFoundError):  # no folder, or another worker was faster
        for file in settings.NORMANT.packages.iterdir():
            if _OURS.fullmatch(file.name) and file.name not in named and file.stat().st_mtime < old:
                file.unlink()
