"""The figures that say what is on a sheet: what people compare before and after a step."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import shapely

from unkelt.geometry.measure import lengths
from unkelt.geometry.path import concat
from unkelt.geometry.region import clusters, parts, regions
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Outline
from unkelt.tolerance import Tolerance


@dataclass(frozen=True, slots=True)
class Figures:
    """Pieces are connected regions of material, over all outlines; counters the holes of each outline, added up."""

    outlines: int
    subpaths: int
    nodes: int
    pieces: int
    counters: int
    area_mm2: float
    cut_length_mm: float


def figures(
    outlines: Iterable[Outline], tolerance: Tolerance, is_cut: Callable[[Appearance], bool] = lambda _: True
) -> Figures:
    """Area as filled, overlaps counted once for each outline; length of all lines that are cut."""
    listed = list(outlines)
    chord = tolerance.chord_mm / 2
    shapes = regions([(each.path, each.look.even_odd) for each in listed if each.look.fill or _closed(each)], chord)
    pieces, _, counters, _ = parts(shapes, tolerance.sliver_mm2)
    return Figures(
        outlines=len(listed),
        subpaths=sum(len(outline.path) for outline in listed),
        nodes=sum(outline.path.node_count for outline in listed),
        pieces=len(clusters(pieces)),
        counters=len(counters),
        area_mm2=float(shapely.area(shapes).sum()) if shapes else 0.0,
        cut_length_mm=float(lengths(concat([each.path for each in listed if is_cut(each.look)])).sum()),
    )


def _closed(outline: Outline) -> bool:
    return bool(outline.path.closed.all())
