"""Evidence that several steps give alike."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from unkelt.geometry.matching import Matched, match_counters
from unkelt.geometry.region import parts, regions
from unkelt.sheet.model import Outline, Sheet
from unkelt.tolerance import Tolerance


def counted(matched: Matched) -> dict[str, int]:
    """Counters in evidence: how many there were and are, and of those which are the same."""
    return {
        "counters_before": len(matched.kept) + len(matched.closed),
        "counters_after": len(matched.kept) + len(matched.new),
        "counters_kept": len(matched.kept),
        "counters_closed": len(matched.closed),
        "counters_new": len(matched.new),
    }


def counters_matched(before: Sheet, after: Sheet, tolerance: Tolerance) -> Matched | None:
    """The counters of all outlines that a step drew otherwise, before and after; None where it drew none otherwise."""
    old, new = ({id(outline.path): outline for outline in sheet.outlines()} for sheet in (before, after))
    gone = [outline for key, outline in old.items() if key not in new]
    come = [outline for key, outline in new.items() if key not in old]
    if not gone or not come:
        return None
    holes = [_counters(outlines, tolerance) for outlines in (gone, come)]
    return match_counters(holes[0], holes[1], tolerance.sliver_mm2) if any(holes) else None


def _counters(outlines: list[Outline], tolerance: Tolerance) -> list[shapely.Polygon]:
    shapes = regions([(each.path, each.look.even_odd) for each in outlines], tolerance.chord_mm / 2)
    return unlike_holes(list(parts(shapes, tolerance.sliver_mm2)[2]), tolerance)


def unlike_holes(holes: Sequence[shapely.Polygon], tolerance: Tolerance) -> list[shapely.Polygon]:
    """Counters without copies of others: those of an outline that is there twice are there twice, too."""
    unlike: list[shapely.Polygon] = []
    for hole in holes:
        box = np.array(hole.bounds)
        near = [other for other in unlike if np.abs(box - other.bounds).max() <= tolerance.same_shape_mm]
        if not any(hole.symmetric_difference(other).area <= tolerance.same_shape_mm * hole.length for other in near):
            unlike.append(hole)
    return unlike
