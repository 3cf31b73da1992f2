"""Welding with proof, beside the raw engine that welds by clusters and proves nothing, and beside GEOS."""

from __future__ import annotations

import random
from dataclasses import replace

import pathops
import shapely
from tests.builders import SHELF, lettering, moved

from benchmarks.timing import Row, best
from unkelt.geometry import aside
from unkelt.geometry import region as regions
from unkelt.geometry.engine import Frame, Operand, to_engine
from unkelt.geometry.path import Path
from unkelt.geometry.touching import touching
from unkelt.geometry.weld_many import weld_clusters
from unkelt.lettering.setting import set_lettering
from unkelt.tolerance import STANDARD

LINE = "Kittiwake and Sea Thrift at Hollin Quay to"


def script(lines: int, unlike: bool = False) -> list[Path]:
    """So many lines of 34 script glyphs with ink, 50 mm high, as one path a glyph; with `unlike`, each with its letters in an
    order of its own, so that no two words are the same.
    """
    mixed = random.Random(7)
    result = []
    for line in range(lines):
        letters = [letter for letter in LINE if letter != " "]
        if unlike:
            mixed.shuffle(letters)
        taken = iter(letters)
        words = "".join(letter if letter == " " else next(taken) for letter in LINE)
        glyphs = [glyph.path() for glyph in set_lettering(lettering(words, "Pacifico", 50), SHELF).glyphs]
        result += [moved(path, 0, 100 * line) for path in glyphs if len(path)]
    return result


def raw_union(paths: list[Path], clusters: list[list[int]]) -> None:
    """What the engine's own union takes, cluster by cluster, without moving, restoring or checking anything."""
    for cluster in clusters:
        frame = Frame.around(paths[cluster[0]].points)
        builder = pathops.OpBuilder(fix_winding=False, keep_starting_points=False)
        for engine in to_engine([paths[index] for index in cluster], [frame] * len(cluster)):
            builder.add(engine, pathops.PathOp.UNION)
        builder.resolve()


def rows() -> list[Row]:
    result = []
    for lines, unlike in ((2, True), (24, True), (24, False)):
        paths = script(lines, unlike)
        operands = [Operand(path) for path in paths]
        clusters = touching(operands, STANDARD)
        size = f"{len(paths)} glyphs, {len(clusters)} clusters" + ("" if unlike else ", lines alike")

        def ours(operands: list[Operand] = operands) -> None:
            regions.forget()
            aside.forget()
            new = [Operand(replace(each.path)) for each in operands]  # which nothing is known of
            weld_clusters([[new[i] for i in cluster] for cluster in touching(new, STANDARD)], STANDARD)

        def geos(paths: list[Path] = paths) -> None:
            regions.forget()
            shapely.unary_union([regions.region(path, False, 0.002) for path in paths])

        ours_s = best(ours, 1)
        result.append(
            Row(
                "weld with proof",
                size,
                ours_s,
                "skia-pathops, no proof",
                best(lambda p=paths, c=clusters: raw_union(p, c), 1),
            )
        )
        result.append(Row("weld with proof", size, ours_s, "GEOS on polylines", best(geos, 1)))
    return result
