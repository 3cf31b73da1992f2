"""How many pixels a millimetre of a screen has, as far as it tells, or as somebody measured it with a ruler."""

from __future__ import annotations

from collections.abc import Mapping

from unkelt.errors import LengthError
from unkelt.units import MM_PER_UNIT, parse_length

LEAST, MOST = 0.5, 60.0
"""Pixels a millimetre that a screen can have: a wall of lamps, and a telephone."""


def screen_name(maker: str, model: str, serial: str, name: str) -> str:
    """What a screen is remembered by: itself where it says who it is, else the socket it is on."""
    return " ".join(part for part in (maker, model, serial) if part) or name or "screen"


def pixels_per_mm(known: Mapping[str, float], screen: str, told_per_inch: float) -> float:
    """As measured, else as the screen says of itself in pixels to the inch."""
    return known.get(screen) or told_per_inch / MM_PER_UNIT["in"]


def measured(line_px: float, read: str) -> float:
    """Pixels a millimetre, where a line of so many pixels reads like this on a ruler. Raises LengthError for what no
    screen has.
    """
    mm = parse_length(read)
    found = line_px / mm if mm > 0 else 0.0
    if not LEAST <= found <= MOST:
        raise LengthError(read, "can't be the length of that line on any screen")
    return found


def line_length(line_px: float, per_mm: float) -> str:
    """How long a line should read on a ruler."""
    return f"{line_px / per_mm:.1f} mm"
