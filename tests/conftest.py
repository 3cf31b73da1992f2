"""Settings for all tests."""

import os

from hypothesis import HealthCheck, settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

# Geometry is slow to build and its time varies on shared machines: no deadline, a fixed seed in CI.
settings.register_profile(
    "unkelt", deadline=None, max_examples=30, derandomize=True, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("unkelt")
