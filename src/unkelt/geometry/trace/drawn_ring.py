"""Drafts: rings on their way, drawn piece by piece along rails as lines, arcs, stretches of curves, and curves still to
be fitted.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from unkelt.geometry.arcs import pieces_for
from unkelt.geometry.measure import part, unit
from unkelt.geometry.path import CUBIC, LINE, Floats, Path
from unkelt.geometry.trace.rails import Arc, Beside, Rails

ARC_ERROR_MM = 5e-5

Segment = tuple[Floats, int]
"""Points (4, 2) and degree."""


@dataclass(slots=True)
class DrawnRing:
    """A ring on its way: what is drawn of each piece, whether that lies at the distance, and the curves still to be
    fitted.
    """

    drawn: list[list[Segment]]
    true: list[bool]
    curves: list[Curve]
    lost: bool = False

    def path(self) -> tuple[Path, np.ndarray]:
        """The ring as a closed path, and of each segment whether it lies on its rail exactly."""
        segments = [segment for part in self.drawn for segment in part]
        true = [flag for flag, part in zip(self.true, self.drawn, strict=True) for _ in part]
        if len(self.drawn) > 1:
            segments, true = _straightened(segments, true)
        # Nodes were taken from one of two rails: both segments get the same number.
        for index, (points, _) in enumerate(segments):
            points[0] = segments[index - 1][0][3]
        return _closed(segments), np.array(true)


@dataclass(frozen=True, slots=True)
class Curve:
    """A stretch to fit: the ring and the piece of it that it belongs to, its rail, the parameters and nodes of its
    ends.
    """

    draft: DrawnRing
    piece: int
    rail: int
    a: float
    b: float
    start: Floats
    end: Floats
    parts: list[tuple[float, Segment]] = field(default_factory=list)
    """Its fits, or those of its parts, and where along the rail each begins; the same list for all parts of one
    stretch.
    """


def arc_segments(rail: Arc, a: float, b: float, start: Floats, end: Floats) -> list[Segment]:
    """Cubics of a stretch of an arc, each through the same angle, handles 4/3 tan(θ/4) of the radius."""
    extent = (b - a) * rail.sweep
    count = pieces_for(extent, rail.radius, ARC_ERROR_MM)
    s, only, which = np.linspace(a, b, count + 1), Rails([rail]), np.zeros(count + 1, np.intp)
    nodes, slopes = only.at(which, s), unit(only.slope(which, s)) * np.sign(b - a)
    nodes[0], nodes[-1] = start, end
    reach = 4 / 3 * math.tan(abs(extent) / count / 4) * rail.radius
    return [
        (np.stack([nodes[k], nodes[k] + reach * slopes[k], nodes[k + 1] - reach * slopes[k + 1], nodes[k + 1]]), CUBIC)
        for k in range(count)
    ]


def _straightened(segments: list[Segment], true: list[bool]) -> tuple[list[Segment], list[bool]]:
    """Lines that go on in the same direction as one line: a side and the mitre that prolongs it."""
    result: list[Segment] = []
    flags: list[bool] = []
    for segment, flag in zip(segments, true, strict=True):
        if result and _collinear(result[-1], segment):
            result[-1] = line_segment(result[-1][0][0], segment[0][3])
            flags[-1] = flags[-1] and flag
        else:
            result.append(segment)
            flags.append(flag)
    if len(result) > 2 and _collinear(result[-1], result[0]):
        result[0] = line_segment(result[-1][0][0], result[0][0][3])
        flags[0] = flags[0] and flags[-1]
        del result[-1], flags[-1]
    return result, flags


def stretch_of(rail: Beside, a: float, b: float, start: Floats, end: Floats) -> Segment:
    """A stretch of a curve itself, which takes no fitting; all of it to the last bit."""
    low, high = (rail.t0 + s * (rail.t1 - rail.t0) for s in (min(a, b), max(a, b)))
    cubic = rail.cubic.copy() if (low, high) == (0.0, 1.0) else part(rail.cubic, low, high)
    if b < a:
        cubic = cubic[::-1].copy()
    cubic[0], cubic[3] = start, end
    return cubic, CUBIC


def line_segment(start: Floats, end: Floats) -> Segment:
    """A line as a segment (4, 2)."""
    return np.stack([start, start, end, end]), LINE


def _collinear(one: Segment, other: Segment) -> bool:
    if one[1] != LINE or other[1] != LINE:
        return False
    a, b = one[0][3] - one[0][0], other[0][3] - other[0][0]
    across = abs(float(a[0] * b[1] - a[1] * b[0]))
    return float(a @ b) > 0 and across <= 1e-9 * float(np.linalg.norm(a) * np.linalg.norm(b)) + 1e-12


def _closed(segments: list[Segment]) -> Path:
    points = np.array([points for points, _ in segments])
    degrees = np.array([degree for _, degree in segments], np.uint8)
    line = degrees == LINE
    points[line, 1], points[line, 2] = points[line, 0], points[line, 3]
    return Path(points, degrees, np.zeros(1, np.intp), np.ones(1, bool))
