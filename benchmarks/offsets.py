"""Offsets and strokes with proof, beside GEOS buffers, which give polylines, and skia's stroker, which proves
nothing.
"""

from __future__ import annotations

import pathops

from benchmarks.timing import Row, best
from benchmarks.welding import script
from unkelt.geometry import region as regions
from unkelt.geometry.boolean.engine import Frame, to_engine
from unkelt.geometry.cache import Cache, use
from unkelt.geometry.offset.offset import offset_path, stroke_path
from unkelt.geometry.offset.pen import Pen
from unkelt.geometry.path import Path
from unkelt.tolerance import STANDARD


def raw_strokes(paths: list[Path]) -> None:
    for path in paths:
        frame = Frame.around(path.points)
        [engine] = to_engine([path], [frame])
        engine.stroke(1.0 * frame.scale, pathops.LineCap.ROUND_CAP, pathops.LineJoin.ROUND_JOIN, 4)
        engine.convertConicsToQuads()
        engine.simplify(fix_winding=False, keep_starting_points=False)


def rows() -> list[Row]:
    paths = script(1)
    size = f"{len(paths)} glyphs, {sum(len(path.points) for path in paths)} segments"

    def ours(join: str) -> None:
        use(Cache())
        for path in paths:
            offset_path(path, 1.0, STANDARD, join)  # type: ignore[arg-type]

    def geos() -> None:
        use(Cache())
        for path in paths:
            regions.region(path, False, 0.002).buffer(1.0, quad_segs=16)

    def strokes() -> None:
        use(Cache())
        for path in paths:
            stroke_path(path, Pen(1.0, "round", "round"), STANDARD)

    buffered = best(geos, 1)
    return [
        Row("offset 1 mm, sharp corners", size, best(lambda: ours("miter"), 1), "GEOS buffer, polylines", buffered),
        Row("offset 1 mm, round corners", size, best(lambda: ours("round"), 1), "GEOS buffer, polylines", buffered),
        Row(
            "stroke to outline, 1 mm",
            size,
            best(strokes, 1),
            "skia stroker, no proof",
            best(lambda: raw_strokes(paths), 1),
        ),
    ]
