"""What a line is stroked with."""

from __future__ import annotations

from dataclasses import dataclass

from unkelt.geometry.trace.rails import Cap, Join


@dataclass(frozen=True, slots=True)
class Pen:
    """How a line is stroked. `shape` is the matrix (a, b, c, d) of determinant 1 of a pen that isn't round."""

    width_mm: float
    join: Join = "miter"
    cap: Cap = "butt"
    mitre_limit: float = 4.0
    dashes_mm: tuple[float, ...] = ()
    dash_offset_mm: float = 0.0
    shape: tuple[float, float, float, float] | None = None
