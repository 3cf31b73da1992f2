"""Changes of whole sheets that several steps share."""

from __future__ import annotations

import math
from dataclasses import replace

from fontTools.misc.transform import Transform

from unkelt.geometry.measure import bounds
from unkelt.geometry.path import polygon
from unkelt.sheet.model import Item, Lettering, Outline, Picture, Sheet


def transformed(sheet: Sheet, matrix: Transform, *, strokes: bool) -> Sheet:
    """Every item moved by a matrix; the page stays. With `strokes` their widths scale too."""
    factor = math.sqrt(abs(matrix.xx * matrix.yy - matrix.xy * matrix.yx))

    def change(item: Item) -> Item:
        match item:
            case Outline():
                look = replace(item.look, stroke_width_mm=item.look.stroke_width_mm * factor) if strokes else item.look
                return replace(item, path=item.path.transformed(matrix), look=look)
            case Lettering():
                drawn = tuple((letter, path.transformed(matrix)) for letter, path in item.drawn)
                return replace(item, placement=matrix.transform(item.placement), drawn=drawn)
            case Picture():
                x0, y0, x1, y1 = item.box
                moved = bounds(polygon((x0, y0), (x1, y0), (x1, y1), (x0, y1)).transformed(matrix))
                return replace(item, box=moved or item.box)
            case _:
                return item

    return sheet.mapped(change)
