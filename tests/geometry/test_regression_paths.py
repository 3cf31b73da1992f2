"""Paths and pairs from Skia's own regression tests (skia/LICENSE): pathological on purpose, from fuzzers and real
pages.

Each is scaled to 100 mm. A result comes with the second engine's agreement, or is refused; those refused are listed
here with the reason, so that one more or one less is seen. Areas are compared once more, by both fill rules.
"""

import json
from pathlib import Path as FilePath

import numpy as np
import pytest
from fontTools.misc.transform import Transform

from unkelt.errors import GeometryRefused
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.geometry.boolean.combine import combine
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.weld import weld
from unkelt.geometry.path import Path
from unkelt.geometry.region import region
from unkelt.tolerance import STANDARD

DATA = json.loads((FilePath(__file__).parent / "skia" / "paths.json").read_text())

PIECES = "two engines disagree"  # parts that meet in a point, or in a neck of a micrometre
REFUSED = {
    "testQuadratic35": PIECES,
    "testQuads73": PIECES,
}
OPERATIONS = {"difference": "difference", "intersect": "intersection", "xor": "exclusion"}


def scaled(*data: str) -> list[Path] | None:
    paths = [parse_path_data(each).path for each in data]
    if not all(len(path) for path in paths):
        return None
    points = np.concatenate([path.points for path in paths]).reshape(-1, 2)
    low, size = points.min(axis=0), max(float(np.ptp(points, axis=0).max()), 1e-9)
    k = 100 / size
    return [path.transformed(Transform(k, 0, 0, k, -low[0] * k, -low[1] * k)) for path in paths]


def judge(name: str, result) -> None:
    """The answer is the same by both rules; a refusal is one that is known."""
    try:
        path, proof = result()
        refused = ""
    except GeometryRefused as problem:
        refused = str(problem)
    assert REFUSED.get(name, "") in refused, f"{name} is no longer refused: take it off the list"
    if refused:
        assert name in REFUSED, f"{name}: {refused}"
        return
    by_rule = [region(path, even_odd, 0.002) for even_odd in (False, True)]
    assert by_rule[0].symmetric_difference(by_rule[1]).area < 0.05, name
    assert by_rule[0].area == pytest.approx(proof.area_second_mm2, abs=0.5), name
    assert proof.max_deviation_mm <= STANDARD.chord_mm


@pytest.mark.parametrize("part", range(4))
def test_each_path_welds_with_itself_or_is_refused_for_a_known_reason(part):
    for name, data, even_odd in DATA["paths"][part::4]:
        if paths := scaled(data):
            judge(name, lambda p=paths[0], e=even_odd: weld([Operand(p, e)], STANDARD, guard=False))


@pytest.mark.parametrize("part", range(2))
def test_each_pair_is_combined_or_refused_for_a_known_reason(part):
    for name, operation, first, first_rule, second, second_rule in DATA["pairs"][part::2]:
        paths = scaled(first, second)
        if paths is None:
            continue
        a, b = Operand(paths[0], first_rule), Operand(paths[1], second_rule)
        if operation == "union":
            judge(name, lambda a=a, b=b: weld([a, b], STANDARD, guard=False))
        else:
            judge(name, lambda a=a, b=b, o=OPERATIONS[operation]: combine(o, [a], [b], STANDARD))
