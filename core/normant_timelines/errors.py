"""What is wrong with a timeline; apart from its reader, whose library takes long to import."""

from normant_core.base.errors import NormantError


class TimelineError(NormantError):
    """A file that is no timeline, or more of one than is read."""
