"""Nodes after reduction as shares of the designers', beside an estimate of the least that any method could reach.

`python -m benchmarks reducing FACE.otf …` counts them for faces of your own; without, for one that comes with the
program.
"""

from __future__ import annotations

import itertools
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path as FilePath

import numpy as np
import shapely
from fontTools.misc.transform import Transform

from benchmarks.timing import Row, best
from benchmarks.welding import script
from unkelt.geometry import region as regions
from unkelt.geometry.cache import Cache, use
from unkelt.geometry.flatten import straightened
from unkelt.geometry.measure import derivative, end_tangents, part, points_at
from unkelt.geometry.path import LINE, Floats, Path
from unkelt.geometry.reduce.reduce import reduce_many
from unkelt.lettering.faces import Face, open_face
from unkelt.lettering.index import faces_in
from unkelt.lettering.setting import capital_share
from unkelt.lettering.shaping import glyph_path
from unkelt.lettering.shelves import bundled_faces

TEXT = "Sea Thrift 258&"
CAPITALS_MM = 50.0
TOLERANCES_MM = (0.01, 0.02, 0.05)
CORNER = np.radians(8)
CHORD_MM = 0.005
FINE_MM = 0.001
MOST_SAMPLES = 120


def glyphs(face: Face) -> list[Path]:
    """The glyphs of the text, capitals 50 mm high, y down."""
    font = open_face(face)
    scale = CAPITALS_MM / (capital_share(face) * font.face.upem)
    found = [font.get_nominal_glyph(ord(letter)) for letter in TEXT if letter != " "]
    return [glyph_path(face, glyph).transformed(Transform(scale, 0, 0, -scale, 0, 0)) for glyph in found if glyph]


def cut_in_eight(path: Path) -> Path:
    """Every segment as eight of the same degree, by equal steps of its parameter."""
    pieces = [
        part(cubic, step / 8, (step + 1) / 8) if degree != LINE else cubic[0] + (cubic[3] - cubic[0]) * thirds(step)
        for cubic, degree in zip(path.cubics(), path.degrees.tolist(), strict=True)
        for step in range(8)
    ]
    points = np.array(pieces)
    points[::8, 0], points[7::8, 3] = path.points[:, 0], path.points[:, 3]
    points[1:, 0] = np.where((np.arange(1, len(points)) % 8 == 0)[:, None], points[1:, 0], points[:-1, 3])
    degrees = np.repeat(np.where(path.degrees == LINE, LINE, 3).astype(np.uint8), 8)
    line = degrees == LINE
    points[line, 1], points[line, 2] = points[line, 0], points[line, 3]
    return Path(points, degrees, path.starts * 8, path.closed)


def thirds(step: int) -> Floats:
    return ((step + np.arange(4) / 3) / 8)[:, None]


def least_nodes(path: Path, tolerance_mm: float) -> int:
    """Free cubics that reach along each stretch between corners one after the other, each as far as it goes within the
    tolerance; their joints need not even be smooth. An estimate: a better start may save one, and no fit is proven to
    be the best.
    """
    return sum(_reaches(stretch, tolerance_mm) for outline in path.subpaths() for stretch in _stretches(outline))


def _stretches(outline: Path) -> Iterator[Floats]:
    """Fine vertices (v, 2) between corners; of an outline without one, all round from its first node."""
    start, end = end_tangents(outline)
    into = np.roll(end, 1, axis=0)
    turn = np.arctan2(into[:, 0] * start[:, 1] - into[:, 1] * start[:, 0], (into * start).sum(axis=1))
    corners = {tuple(node) for node in outline.points[np.abs(turn) > CORNER, 0]}
    fine = straightened(outline, FINE_MM).points
    vertices = np.concatenate([fine[:, 0], fine[:, 0], fine[:1, 0]])
    places = [index for index in range(len(fine)) if tuple(fine[index, 0]) in corners] or [0]
    for a, b in itertools.pairwise([*places, places[0] + len(fine)]):
        yield vertices[a : b + 1]


def _reaches(vertices: Floats, tolerance_mm: float) -> int:
    """How many cubics, the longest first found by doubling and halving."""
    begin, count, last = 0, 0, len(vertices) - 1
    while begin < last:
        reached, step = begin + 1, 4
        beyond = last + 1
        while reached < last:
            wanted = min(begin + step, last)
            if wanted >= beyond or not _one_reaches(_samples(vertices[begin : wanted + 1]), tolerance_mm):
                beyond = min(beyond, wanted)
                break
            reached, step = wanted, 2 * step
        while beyond - reached > 1:
            middle = (reached + beyond) // 2
            if _one_reaches(_samples(vertices[begin : middle + 1]), tolerance_mm):
                reached = middle
            else:
                beyond = middle
        begin, count = reached, count + 1
    return count


def _samples(vertices: Floats) -> Floats:
    """Places along a polyline, its vertices and between them."""
    between = max(1, round(12 / len(vertices)))
    share = np.arange(between + 1)[:, None, None] / (between + 1)
    places = (vertices[:-1] + share * np.diff(vertices, axis=0)).transpose(1, 0, 2).reshape(-1, 2)
    places = np.concatenate([places, vertices[-1:]])
    return places[np.unique(np.linspace(0, len(places) - 1, MOST_SAMPLES).round().astype(int))]


def _one_reaches(places: Floats, tolerance_mm: float) -> bool:
    """Whether a cubic from the first place to the last was found that passes all of them within the tolerance.

    Least squares first, then steps along the normals, heavier where it is far off (R. I. Lawson, 1961), each after the
    places' parameters were moved to their feet (J. Hoschek, 1988).
    """
    steps = np.hypot(*np.diff(places, axis=0).T)
    t = np.append(0, np.cumsum(steps)) / steps.sum()
    weights: Floats = np.ones(len(places))
    first, last = places[0], places[-1]
    cubic = first + (last - first) * (np.arange(4) / 3)[:, None]
    for turn in range(60):
        u = 1 - t
        near, far = 3 * t * u * u, 3 * t * t * u
        root = np.sqrt(weights)[:, None]
        if turn < 6:
            wanted = places - (u**3)[:, None] * first - (t**3)[:, None] * last
            matrix = np.concatenate([root * np.stack([near, far], axis=1), 1e-6 * np.eye(2)])
            cubic[1:3] = np.linalg.lstsq(matrix, np.concatenate([root * wanted, 1e-6 * cubic[1:3]]), rcond=None)[0]
        else:
            way = derivative(cubic[None], t[None])[0]
            normal = np.stack([-way[:, 1], way[:, 0]], axis=1) / np.maximum(np.hypot(*way.T), 1e-12)[:, None]
            off = ((points_at(cubic[None], t[None])[0] - places) * normal).sum(axis=1)
            matrix = np.concatenate([near[:, None] * normal, far[:, None] * normal], axis=1) * root
            step = np.linalg.lstsq(
                np.concatenate([matrix, 1e-4 * np.eye(4)]), np.append(-off * root[:, 0], np.zeros(4)), rcond=None
            )[0]
            cubic[1:3] += step.reshape(2, 2)
        t = _feet(cubic, places, t)
        away = np.hypot(*(points_at(cubic[None], t[None])[0] - places).T)
        worst = float(away.max())
        if worst <= tolerance_mm:
            return True
        if turn > 8 and worst > 6 * tolerance_mm:
            return False
        if turn >= 12:
            weights *= 0.15 + away / worst
            weights /= weights.mean()
    return False


def _feet(cubic: Floats, places: Floats, t: Floats) -> Floats:
    """Parameters moved towards the places' feet by Newton's steps; the ends stay."""
    bend = 6 * np.diff(cubic, n=2, axis=0)
    for _ in range(3):
        off = points_at(cubic[None], t[None])[0] - places
        way = derivative(cubic[None], t[None])[0]
        bent = (1 - t)[:, None] * bend[0] + t[:, None] * bend[1]
        square = (way * way).sum(axis=1)
        slope = np.maximum(square + (off * bent).sum(axis=1), 0.3 * square)
        t = np.clip(t - np.clip((off * way).sum(axis=1) / np.maximum(slope, 1e-12), -0.2, 0.2), 0, 1)
        t[0], t[-1] = 0, 1
    return t


def shares(faces: Sequence[Face]) -> None:
    """Prints, over all faces, the nodes left as shares of those drawn."""
    drawn = [path for face in faces for path in glyphs(face)]
    nodes = sum(path.node_count for path in drawn)
    print(f"{', '.join(face.name for face in faces)}: {len(drawn)} glyphs, {nodes} nodes; shares of them that are left")
    print(f"{'source':44}" + "".join(f"{tolerance:>9} mm" for tolerance in TOLERANCES_MM))
    sources = {
        "every segment cut in eight": [cut_in_eight(path) for path in drawn],
        f"polylines with {CHORD_MM} mm chord error": [straightened(path, CHORD_MM) for path in drawn],
    }
    for name, paths in sources.items():
        left = [sum(each.path.node_count for each in reduce_many(paths, tolerance)) for tolerance in TOLERANCES_MM]
        print(f"{name:44}" + "".join(f"{count / nodes:12.2f}" for count in left))
    least = [sum(least_nodes(path, tolerance) for path in drawn) for tolerance in TOLERANCES_MM]
    print(f"{'the least that was found, estimated':44}" + "".join(f"{count / nodes:12.2f}" for count in least))


def rows() -> list[Row]:
    given = [FilePath(name) for name in sys.argv[2:] if name.endswith((".otf", ".ttf"))]
    faces = [face for name in given for face in faces_in(name)] or [
        face for face in bundled_faces() if face.name == "Dancing Script"
    ]
    shares(faces)
    word = script(1)
    return [row for paths in (word, [cut_in_eight(path) for path in word]) for row in timed(paths)]


def timed(paths: Sequence[Path]) -> Iterator[Row]:
    def reduce() -> None:
        use(Cache())
        reduce_many(paths, 0.02)

    def simplify() -> None:
        for path in paths:
            shapely.simplify(regions.region(path, False, 0.002), 0.02)

    size = f"{sum(path.node_count for path in paths)} nodes"
    yield Row("reduce nodes, certified", size, best(reduce, 1), "GEOS simplify, polylines", best(simplify, 1))
