"""Welding with proof, beside the raw engine that welds by clusters and proves nothing, and beside GEOS."""

from __future__ import annotations

import random
from dataclasses import replace

import pathops
import shapely
from tests.builders import SHELF, lettering, moved

from benchmarks.timing import Row, best_of
from unkelt.geometry import region as regions
from unkelt.geometry.boolean.engine import Frame, Operand, to_engine
from unkelt.geometry.boolean.touching import touching
from unkelt.geometry.boolean.weld_many import weld_clusters
from unkelt.geometry.cache import Cache, use
from unkelt.geometry.path import Path
from unkelt.lettering.setting import set_lettering
from unkelt.tolerance import STANDARD

RUNS = 7

LINE = "Kittiwake and Sea Thrift at Hollin Quay to"


def script(lines: int, unlike: bool = False) -> list[Path]:
    """So many lines of 34 script glyphs with ink, 50 mm high, as one path a glyph; with `unlike`, each with its letters
    in an order of its own, so that no two words are the same.
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


def raw_union(paths: list[Path], clusters: list[list[int]], fix_winding: bool) -> list[object]:
    """What the engine's own union takes, cluster by cluster: paths in, united, numbers out; nothing is restored or
    checked.
    """
    ordered = [paths[index] for cluster in clusters for index in cluster]
    frames = [Frame.around(paths[cluster[0]].points) for cluster in clusters for _ in cluster]
    engines = iter(to_engine(ordered, frames))
    result: list[object] = []
    for cluster in clusters:
        builder = pathops.OpBuilder(fix_winding, fix_winding)
        for _ in cluster:
            builder.add(next(engines), pathops.PathOp.UNION)
        united = builder.resolve()
        result.append((united.verbs, united.points))
    return result


def rows() -> list[Row]:
    result = []
    for lines, unlike in ((2, True), (24, True), (24, False)):
        paths = script(lines, unlike)
        clusters = touching([Operand(path) for path in paths], STANDARD)
        size = f"{len(paths)} glyphs, {len(clusters)} clusters" + ("" if unlike else ", lines alike")
        operands: list[Operand] = []

        def ready(paths: list[Path] = paths, operands: list[Operand] = operands) -> None:
            """Nothing is known of the outlines."""
            use(Cache())
            operands[:] = [Operand(replace(path)) for path in paths]

        def ours(operands: list[Operand] = operands) -> None:
            weld_clusters([[operands[i] for i in cluster] for cluster in touching(operands, STANDARD)], STANDARD)

        def as_it_comes(paths: list[Path] = paths, clusters: list[list[int]] = clusters) -> None:
            raw_union(paths, clusters, fix_winding=True)

        def bare(paths: list[Path] = paths, clusters: list[list[int]] = clusters) -> None:
            raw_union(paths, clusters, fix_winding=False)

        def geos(paths: list[Path] = paths) -> None:
            shapely.unary_union([regions.region(path, False, 0.002) for path in paths])

        names = "skia-pathops as it comes", "skia-pathops, winding not mended", "GEOS on polylines"
        (ours_s, ours_cpu_s), *raw = best_of([ours, as_it_comes, bare, geos], RUNS, ready)
        for name, (raw_s, raw_cpu_s) in zip(names, raw, strict=True):
            result.append(Row("weld with proof, clock", size, ours_s, name, raw_s))
            result.append(Row("weld with proof, CPU", size, ours_cpu_s, name, raw_cpu_s))
    return result
