"""Tests of the stand-ins, with the core's settings for laws."""

import normant_core.tests  # noqa: F401
