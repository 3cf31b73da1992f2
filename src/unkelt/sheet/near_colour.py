"""The key of colours: which colour of it another one was probably meant to be."""

from __future__ import annotations

import math
from collections.abc import Iterable

NEAR = 40.0
"""Colours nearer than this, as a distance in RGB of 0 to 255, are taken for one by eye on most screens; common
practice, no source.
"""


def nearest_colour(colour: str, key: Iterable[str]) -> str | None:
    """The key's colour that is almost this one, both as "#rrggbb"; None where none is near, or two are."""
    near = sorted((math.dist(_channels(colour), _channels(other)), other) for other in key if other != colour)
    near = [pair for pair in near if pair[0] <= NEAR]
    if not near or (len(near) > 1 and near[1][0] < 1.5 * near[0][0]):
        return None
    return near[0][1]


def _channels(colour: str) -> tuple[int, int, int]:
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)
