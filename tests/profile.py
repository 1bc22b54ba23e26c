"""How property tests are made, in one place: the same cases each time in CI, others each time elsewhere.

Imported before any test is: what a test asks for itself is added to this.
"""

from __future__ import annotations

import os
import random

from hypothesis import HealthCheck, core, settings

# What to set to try the same cases again.
SEED = "ZESTER_SEED"
IN_CI = bool(os.environ.get("CI"))


def load() -> str:
    """Take the profile; what to print about it."""
    settings.register_profile(
        "zester",
        deadline=None,
        suppress_health_check=[HealthCheck.too_slow],
        derandomize=IN_CI,
        print_blob=True,
        # In CI nothing is kept; elsewhere what failed is tried first.
        **({"database": None} if IN_CI else {}),
    )
    settings.load_profile("zester")
    if IN_CI:
        return "Property tests try the same cases each time."
    seed = os.environ.setdefault(SEED, str(random.randrange(1_000_000)))
    core.global_force_seed = int(seed)
    return f"Property tests try other cases each time; these again: {SEED}={seed}"
