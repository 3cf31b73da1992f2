"""How the engine's work grows from a hundred segments to a million, beside GEOS on polylines; the exponent of each."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np
import shapely
from fontTools.misc.transform import Transform

from benchmarks.surveying import shapes
from benchmarks.timing import Row, best
from unkelt.geometry import region
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.weld_many import weld_clusters
from unkelt.geometry.cache import Cache, use
from unkelt.geometry.flatten import flatten, lines
from unkelt.geometry.measure import Box, bounds, lengths, segment_bounds, signed_areas
from unkelt.geometry.offset.offset import offset_path
from unkelt.geometry.path import Geometries, Path, concat
from unkelt.geometry.reduce import reduce
from unkelt.geometry.relations import meetings, nearest
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.recipe import Call, apply
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Outline, Sheet
from unkelt.tolerance import STANDARD

BLACK = Appearance(fill="#000000")
NOWHERE: Box = (0.0, 0.0, 0.0, 0.0)

Work = tuple[str, int, Callable[[list[Path], Path], object], str, Callable[[shapely.Geometry], object]]


def _from_middle(geometry: shapely.Geometry) -> object:
    return shapely.distance(geometry, shapely.Point(100, 100))


def rows() -> list[Row]:
    made: list[Row] = []
    works: list[Work] = [
        ("bounds", 1_000_000, lambda _, whole: segment_bounds(whole), "GEOS bounds", shapely.bounds),
        ("length", 1_000_000, lambda _, whole: lengths(whole), "GEOS length", shapely.length),
        ("area", 1_000_000, lambda _, whole: signed_areas(whole), "GEOS length", shapely.length),
        ("flatten to 0.01 mm", 1_000_000, lambda _, whole: flatten(whole, 0.01), "", shapely.length),
        ("nearest place", 100_000, lambda _, whole: nearest(whole, 100.0, 100.0), "GEOS distance", _from_middle),
        ("reduce nodes", 100_000, lambda paths, _: _reduce(paths), "GEOS simplify", lambda g: g.simplify(0.02)),
        ("offset 1 mm", 10_000, lambda paths, _: _offset(paths), "GEOS buffer", lambda g: shapely.buffer(g, 1.0)),
    ]  # fmt: skip
    for name, most, ours, raw, theirs in works:
        times: list[tuple[int, float]] = []
        for segments in (100, 1_000, 10_000, 100_000, 1_000_000):
            if segments > most:
                break
            paths = [outline.path for outline in shapes(max(2, segments // 40)).outlines()]
            whole, polyline = concat(paths), lines(concat(paths), 0.01)
            seconds = best(
                lambda ours=ours, paths=paths, whole=whole: ours(paths, whole), 1 if segments > 10_000 else 2
            )
            times.append((segments, seconds))
            spent = best(lambda theirs=theirs, polyline=polyline: theirs(polyline), 1) if raw else 0.0
            made.append(Row(name, f"{segments:,} segments", seconds, raw, spent))
        made.append(_exponent(name, times))
    return [*made, *_welds(), *_accounts(), *_crossings()]


def _exponent(name: str, times: list[tuple[int, float]]) -> Row:
    """Of the last three sizes."""
    (n0, t0), (n1, t1) = times[max(0, len(times) - 3)], times[-1]
    exponent = math.log(max(t1, 1e-9) / max(t0, 1e-9)) / math.log(n1 / n0)
    return Row(f"  {name} grows as n^{exponent:.2f}", "", t1, "", 0.0)


def _welds() -> list[Row]:
    """Each second shape with the one before it, over which it lies by half."""
    found, times = [], []
    for segments in (100, 1_000, 10_000, 100_000, 1_000_000):
        pairs = list(_pairs(segments))

        def ours(pairs: list[list[Path]] = pairs) -> None:
            use(Cache())
            weld_clusters([[Operand(replace(path)) for path in pair] for pair in pairs], STANDARD)

        polygons = np.array([[region.region(path, False, 0.01) for path in pair] for pair in pairs], object)
        spent = best(lambda polygons=polygons: shapely.union_all(polygons, axis=1), 1)
        seconds = best(ours, 2)
        times.append((segments, seconds))
        found.append(Row("weld with proof", f"{segments:,} segments", seconds, "GEOS, polygons made already", spent))
    return [*found, _exponent("weld with proof", times)]


def _accounts() -> list[Row]:
    """The same pairs on a sheet: the step weld, with its account of what is painted before and after."""
    found, times = [], []
    for segments in (10_000, 100_000, 1_000_000):
        pairs = list(_pairs(segments))
        items = [Outline(f"{side}{k}", pair[side], BLACK) for k, pair in enumerate(pairs) for side in (0, 1)]
        extent = max(box[2] + box[3] for item in items if (box := bounds(item.path)))
        on = Sheet((extent, extent), tuple(items))

        def ours(on: Sheet = on) -> None:
            use(Cache())
            apply(Call("weld"), on, Workshop(Ticket(), Shelf(())))

        polygons = np.array([[region.region(path, False, 0.01) for path in pair] for pair in pairs], object)

        def raw(polygons: Geometries = polygons) -> None:
            before = shapely.union_all(polygons.ravel())
            shapely.symmetric_difference(before, shapely.union_all(shapely.union_all(polygons, axis=1)))

        found.append(
            Row("weld a sheet, with its account", f"{segments:,} segments", best(ours, 1), "GEOS, union and difference",
                best(raw, 1))
        )  # fmt: skip
        times.append((segments, found[-1].ours_s))
    return [*found, _exponent("weld a sheet, with its account", times)]


def _pairs(segments: int) -> Iterator[list[Path]]:
    """Shapes of which each second lies half over the one before it."""
    paths = [outline.path for outline in shapes(segments // 80 * 2 or 2).outlines()]
    for one, other in zip(paths[::2], paths[1::2], strict=True):
        (x0, y0, x1, _), (x2, y2, *_) = bounds(one) or NOWHERE, bounds(other) or NOWHERE
        yield [one, other.transformed(Transform().translate((x0 + x1) / 2 - x2, y0 - y2))]


def _crossings() -> list[Row]:
    """Two circles of ever more arcs against each other."""
    found = []
    for arcs in (8, 64, 512):
        angle = np.linspace(0, 2 * np.pi, arcs + 1)
        k = 4 / 3 * math.tan(math.pi / 2 / arcs)
        z, way = np.exp(1j * angle), 1j * np.exp(1j * angle)
        cubics = np.stack([z[:-1], z[:-1] + k * way[:-1], z[1:] - k * way[1:], z[1:]], axis=1)
        points = np.stack([cubics.real, cubics.imag], axis=2) * 50
        one = Path(points, np.full(arcs, 3, np.uint8), np.zeros(1, np.intp), np.array([True]))
        other = Path(points + np.array([30.0, 5.0]), one.degrees, one.starts, one.closed)
        raw = [lines(path, 0.001) for path in (one, other)]
        found.append(
            Row(
                "meetings to 1e-9 mm",
                f"{arcs} on {arcs} segments",
                best(lambda a=one, b=other: meetings(a, b), 2),
                "GEOS, polylines",
                best(lambda raw=raw: shapely.intersection(*raw), 2),
            )
        )
    return found


def _reduce(paths: list[Path]) -> None:
    use(Cache())
    reduce.reduce_many(paths, 0.02)


def _offset(paths: list[Path]) -> None:
    use(Cache())
    for path in paths:
        offset_path(path, 1.0, STANDARD, "round")
