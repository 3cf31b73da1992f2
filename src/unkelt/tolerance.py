"""All the bounds that algorithms compare with; each field is one quantity and has its reason."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Tolerance:
    """Lengths in mm unless the name says otherwise."""

    same_point_mm: float = 1e-6
    """Arithmetic noise of float64 on a 2 m sheet, with room."""

    engine_noise_mm: float = 5e-4
    """How far the weld engine, which works in 32-bit floats, may place a node: 2^-23 of a 2 m sheet, doubled."""

    chord_mm: float = 0.02
    """The most a safe step may move a line."""

    joint_mm: float = 0.2
    """Open ends nearer than this were meant to meet."""

    same_shape_mm: float = 0.01
    """Two copies nearer than this everywhere are one line to any machine."""

    sliver_mm2: float = 1e-3
    """An overlap, counter or piece below this is noise of flattening, not material: 0.03 × 0.03 mm."""

    scrap_mm: float = 0.05
    """A subpath smaller than this both ways is a point to any machine: a fifth of a hairline."""

    graze_mm2: float = 1e-5
    """Outlines that cross by less than this only touch: rounding of a shared line."""

    excess_share: float = 0.25
    """Nodes are called excess when at least this share of an outline's nodes could go."""

    excess_nodes: int = 8
    """… and at least so many in one outline: fewer are not worth a step."""


STANDARD = Tolerance()
