"""The pen that a stroke is drawn with."""

from __future__ import annotations

import itertools
import math
from typing import cast

import shapely

from unkelt.geometry.offset.band import stroke_area
from unkelt.geometry.offset.pen import Pen
from unkelt.geometry.path import Path
from unkelt.geometry.region import region
from unkelt.geometry.trace.rails import Cap, Join
from unkelt.sheet.appearance import Appearance


def pen_of(look: Appearance) -> Pen:
    """The pen of a stroke as it is drawn. Words that aren't known mean what they mean in SVG by default.

    A stroke on one side of its line is that half of one twice as wide (`stroke_region`).
    """
    join = look.line_join if look.line_join in ("round", "miter", "bevel") else "miter"
    cap = look.line_cap if look.line_cap in ("butt", "round", "square") else "butt"
    return Pen(
        look.stroke_width_mm * (1 if look.stroke_side == "centre" else 2),
        cast(Join, join),
        cast(Cap, cap),
        max(1.0, look.mitre_limit),
        look.dashes_mm,
        look.dash_offset_mm,
        look.pen,
    )


BEYOND_MM = 1e-4
"""So far past the end of a dash a line begins that would begin right there: rounded numbers would leave a rest of it,
which caps make a dot.
"""


def dash_phase_mm(look: Appearance) -> float:
    """How far into its dashes a line begins, as files are to say it: from 0 to all of their length, where the offset
    may be any number, and never at the very end of a dash.
    """
    pattern = look.dashes_mm * (1 + len(look.dashes_mm) % 2)
    period = math.fsum(pattern)
    phase = look.dash_offset_mm % period if period else 0.0
    for length, end in list(zip(pattern, itertools.accumulate(pattern), strict=True))[::2]:
        if length and abs(end - phase) < BEYOND_MM:
            return end + BEYOND_MM
    return phase


def stroke_region(path: Path, look: Appearance, chord_mm: float) -> shapely.Geometry:
    """The area that a stroke paints, flattened to a chord error in mm. Raises GeometryRefused for dashes without
    number.
    """
    both = stroke_area(path, pen_of(look), chord_mm)
    if look.stroke_side == "centre":
        return both
    within = region(path, look.even_odd, chord_mm)
    return shapely.intersection(both, within) if look.stroke_side == "inside" else shapely.difference(both, within)
