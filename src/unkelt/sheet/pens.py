"""The pen that a stroke is drawn with."""

from __future__ import annotations

from typing import cast

from unkelt.geometry.offset.offset import Pen
from unkelt.geometry.trace.rails import Cap, Join
from unkelt.sheet.appearance import Appearance


def pen_of(look: Appearance) -> Pen:
    """The pen of a stroke as it is drawn. Words that aren't known mean what they mean in SVG by default."""
    join = look.line_join if look.line_join in ("round", "miter", "bevel") else "miter"
    cap = look.line_cap if look.line_cap in ("butt", "round", "square") else "butt"
    return Pen(
        look.stroke_width_mm,
        cast(Join, join),
        cast(Cap, cap),
        max(1.0, look.mitre_limit),
        look.dashes_mm,
        look.dash_offset_mm,
        look.pen,
    )
