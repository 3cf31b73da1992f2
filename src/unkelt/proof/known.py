"""Where the renderers that paint the pictures, or reading, are known to see something otherwise."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely
from fontTools.misc.transform import Transform

from unkelt.account.painting import reach
from unkelt.geometry.measure import Box, bounds
from unkelt.geometry.offset.dashes import corners_by_ends
from unkelt.geometry.path import LINE
from unkelt.geometry.region import transformed
from unkelt.lettering.faces import Shelf
from unkelt.lettering.setting import set_lettering
from unkelt.proof.pixels import Known
from unkelt.sheet.appearance import stroke_reach
from unkelt.sheet.model import Lettering, Outline, Sheet
from unkelt.sheet.pens import pen_of

FILTER_REACH = 0.1
"""How far an effect may reach beyond the box of what it is of, in that box's width and height."""

TEXT_UNITS = 0.6
"""How far resvg may set a letter on a guide from where it belongs, in user units of the text (measured against
Chromium).
"""


def known_of(original: Sheet, matrix: Transform, shelf: Shelf) -> list[Known]:
    """What was said at reading, and text and dashes that renderers set in a way of their own."""
    found: list[Known] = []
    boxes = {item.id: box for item in original.walk() if (box := reach(item, shelf)) is not None}
    for remark in original.source.remarks:
        if remark.code is not None and remark.code.startswith("content"):
            named = [boxes[name] for name in remark.items if name in boxes]
            held = [boxes[inner] for name in remark.items for inner in _leaves(original, name) if inner in boxes]
            for x0, y0, x1, y1 in (*named, *held):
                # Filters reach a tenth beyond what they are of (SVG 1.1, 15.5, where nothing else is said).
                dx, dy = FILTER_REACH * (x1 - x0), FILTER_REACH * (y1 - y0)
                grown = _moved_box((x0 - dx, y0 - dy, x1 + dx, y1 + dy), matrix)
                found.append(Known(grown, remark.words))
    for outline in original.outlines():
        found += _by_dashes(outline, matrix, of_pdf=original.source.kind == "PDF")
        found += _by_wide_strokes(outline, matrix)
    for text in original.letterings():
        box = boxes.get(text.id)
        if box is None:
            continue
        found += _by_bars(text, matrix, shelf)
        unit = text.runs[0].size_mm / 16
        grown = _moved_box((box[0] - unit, box[1] - unit, box[2] + unit, box[3] + unit), matrix)
        if any(run.features or run.letter_spacing_mm for run in text.runs) or text.beyond:
            found.append(Known(grown, "text with features or spacing, which the renderer sets without them"))
        elif text.guide is not None or text.length_mm is not None:
            found.append(Known(grown, "", TEXT_UNITS * 25.4 / 96))
    return found


def _by_bars(text: Lettering, matrix: Transform, shelf: Shelf) -> Iterator[Known]:
    """Where letters are underlined or struck through: faces say where the upper edge lies (OpenType, `post`), and some
    renderers take it for the middle.
    """
    for run, path in set_lettering(text, shelf).bars if any(run.decoration for run in text.runs) else ():
        box = bounds(path.transformed(text.placement))
        if box is not None:
            thick = run.size_mm / 16
            grown = (box[0] - thick, box[1] - thick, box[2] + thick, box[3] + thick)
            yield Known(_moved_box(grown, matrix), "", thick)


def _by_dashes(outline: Outline, matrix: Transform, *, of_pdf: bool) -> Iterator[Known]:
    """Where a join may be painted or not; in PDF also where closed subpaths start, and dashes lie a little off on
    curves.
    """
    if not outline.look.stroke or not outline.look.dashes_mm:
        return
    pen = pen_of(outline.look)
    widest = stroke_reach(outline.look)
    places = [*corners_by_ends(outline.path, pen.dashes_mm, pen.dash_offset_mm)]
    if of_pdf:
        box = bounds(outline.path)
        if box is not None and min(pen.dashes_mm) > 0 and (outline.path.degrees != LINE).any():
            around = _moved_box((box[0] - widest, box[1] - widest, box[2] + widest, box[3] + widest), matrix)
            yield Known(around, "", min(pen.dashes_mm) / 4)
        places += [*outline.path.points[outline.path.starts, 0][np.asarray(outline.path.closed)]]
    for corner in places:
        where = transformed(shapely.Point(corner).buffer(widest), matrix)
        yield Known(where, "a dash ends at a corner, which renderers measure each in their own way")


def _by_wide_strokes(outline: Outline, matrix: Transform) -> Iterator[Known]:
    """Where a stroke is wider than the round thing it goes around: the renderer's inner edge turns inside out there."""
    if not outline.look.stroke:
        return
    half = pen_of(outline.look).width_mm / 2
    path = outline.path
    for index in np.flatnonzero(np.asarray(path.closed)):
        box = bounds(path.select([int(index)]))
        if box is not None and max(box[2] - box[0], box[3] - box[1]) < 2 * half:
            grown = _moved_box((box[0] - half, box[1] - half, box[2] + half, box[3] + half), matrix)
            yield Known(grown, "a stroke wider than its shape, whose middle renderers fill differently")


def _leaves(sheet: Sheet, name: str) -> list[str]:
    item = sheet.find(name)
    return [inner.id for inner in Sheet(sheet.page_mm, (item,)).walk()] if item is not None else []


def _moved_box(box: Box, matrix: Transform) -> shapely.Geometry:
    corners = [(box[0], box[1]), (box[2], box[1]), (box[2], box[3]), (box[0], box[3])]
    return shapely.Polygon([matrix.transformPoint(corner) for corner in corners])
