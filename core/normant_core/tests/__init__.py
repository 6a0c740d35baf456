"""Tests of the core. No law depends on how fast a machine is: hypothesis neither times nor hurries."""

from hypothesis import HealthCheck, settings

settings.register_profile("house", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("house")
