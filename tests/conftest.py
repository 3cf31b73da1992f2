"""Settings for all tests."""

import os
import tempfile

from hypothesis import HealthCheck, settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

# Nobody's own settings and kept jobs are read or written, and what a test that was killed leaves there troubles no other.
_home = tempfile.TemporaryDirectory(prefix="unkelt-tests-", ignore_cleanup_errors=True)
os.environ |= {"XDG_CONFIG_HOME": f"{_home.name}/config", "XDG_STATE_HOME": f"{_home.name}/state"}

# Geometry is slow to build and its time varies on shared machines: no deadline, a fixed seed in CI.
settings.register_profile(
    "unkelt", deadline=None, max_examples=30, derandomize=True, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("unkelt")
