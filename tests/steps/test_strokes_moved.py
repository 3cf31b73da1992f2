"""Strokes of what is moved: as if the file had said it so."""

import pytest
import shapely

from tests.builders import workshop
from unkelt.formats.svg.read import parse_svg
from unkelt.recipe import Call, apply
from unkelt.sheet.pens import stroke_region

SKEWED = '<path transform="translate(30 30) skewX(30) scale(2 .5)" d="M0 0h10v20l-6 3" fill="none" stroke="#000" stroke-width="2"/>'
WORD = (
    '<text x="20" y="50" font-family="Pacifico" font-size="20" fill="none" stroke="#000" stroke-width="1">Tern</text>'
)


def read(inside):
    root = 'xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100"'
    return parse_svg(f"<svg {root}>{inside}</svg>".encode())


def inked(sheet):
    outlined = apply(Call("outline-text"), sheet, workshop()).sheet if sheet.letterings() else sheet
    return shapely.union_all([stroke_region(each.path, each.look, 0.002) for each in outlined.outlines()])


@pytest.mark.parametrize("inside", [SKEWED, f'<g transform="skewX(30)">{WORD}</g>'])
@pytest.mark.parametrize(
    ("step", "transform"),
    [
        (Call("rotate", options={"angle": 90}), "rotate(90 50 50)"),
        (Call("rotate", options={"angle": -35}), "rotate(-35 50 50)"),
        (Call("mirror"), "matrix(-1 0 0 1 100 0)"),
        (Call("scale", options={"by": 1.5, "strokes": True}), "scale(1.5)"),
    ],
    ids=lambda value: value.name if isinstance(value, Call) else "",
)
def test_a_stroke_moves_as_if_the_file_had_said_so(inside, step, transform):
    """The same ink, but for where the step puts it."""
    was, now = (
        inked(read(f'<g transform="{transform}">{inside}</g>')),
        inked(apply(step, read(inside), workshop()).sheet),
    )
    shift = [a - b for a, b in zip(was.bounds[:2], now.bounds[:2], strict=True)]
    now = shapely.affinity.translate(now, *shift)
    assert shapely.area(shapely.symmetric_difference(was, now)) < 0.002 * was.area
