"""What a command's exit status says."""

from __future__ import annotations

from enum import IntEnum


class Status(IntEnum):
    """Exit statuses: what scripts can tell by them."""

    CLEAN = 0
    HOLD = 1
    UNUSABLE = 2
