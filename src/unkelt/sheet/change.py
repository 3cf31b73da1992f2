"""Changes of whole sheets that several steps share."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import replace

from fontTools.misc.transform import Transform

from unkelt.geometry.measure import Box, join_boxes
from unkelt.sheet.appearance import Appearance, uneven_pen
from unkelt.sheet.model import Each, Group, Item, Lettering, Outline, Pen, Picture, Sheet
from unkelt.sheet.pens import pen_of


def transformed(sheet: Sheet, matrix: Transform, *, strokes: bool, items: Collection[str] | None = None) -> Sheet:
    """Every item moved by a matrix, or only those named (groups with all they hold); the page stays.

    With `strokes` their widths scale too.
    """
    chosen = None if items is None else leaves(sheet, items)

    def change(item: Item) -> Item:
        return moved_item(item, matrix, strokes=strokes) if chosen is None or item.id in chosen else item

    return sheet.mapped(change)


def moved_item(item: Item, matrix: Transform, *, strokes: bool = False) -> Item:
    """An outline, text or picture moved by a matrix; with `strokes` their widths scale too. Groups are returned as they
    are.
    """
    turned_over = bool(matrix.xx * matrix.yy - matrix.xy * matrix.yx < 0)
    match item:
        case Outline():
            look = moved_look(item.look, matrix, strokes=strokes)
            reads = item.reads.mirrored() if turned_over else item.reads
            moved_mm = item.moved_mm * growth(matrix)
            return replace(item, path=item.path.transformed(matrix), look=look, reads=reads, moved_mm=moved_mm)
        case Lettering():
            drawn = tuple((letter, path.transformed(matrix)) for letter, path in item.drawn)
            runs = item.runs
            if any(run.look.stroke for run in runs):
                runs = tuple(replace(run, look=moved_look(run.look, matrix, strokes=strokes)) for run in runs)
            return true_to_size(replace(item, runs=runs, placement=matrix.transform(item.placement), drawn=drawn))
        case Picture():
            return replace(item, placement=matrix.transform(item.placement))
        case _:
            return item


SAME_SCALE = 1e-12


def true_to_size(text: Lettering) -> Lettering:
    """A text whose own lengths are lengths on the sheet: what its placement scales is scaled in the text itself. Where
    it scales unevenly, the mean of both ways is.
    """
    m = text.placement
    k = math.sqrt(abs(m.xx * m.yy - m.xy * m.yx))
    if not k or abs(k - 1) < SAME_SCALE:
        return text

    def times(value: float | None) -> float | None:
        return None if value is None else value * k

    def each_of(each: Each | None) -> Each | None:
        if each is None:
            return None
        x, y, dx, dy = (tuple(value * k for value in values) for values in (each.x, each.y, each.dx, each.dy))
        return Each(x, y, dx, dy, each.rotate)

    scale = Transform(k, 0, 0, k, 0, 0)
    runs = tuple(
        replace(
            run,
            size_mm=run.size_mm * k,
            capitals_mm=times(run.capitals_mm),
            letter_spacing_mm=run.letter_spacing_mm * k,
            word_spacing_mm=run.word_spacing_mm * k,
            baseline_mm=run.baseline_mm * k,
            at=(times(run.at[0]), times(run.at[1])),
            shift=(run.shift[0] * k, run.shift[1] * k),
            each=each_of(run.each),
        )
        for run in text.runs
    )
    guide, frame = text.guide, text.frame
    if guide is not None:
        guide = replace(guide, path=guide.path.transformed(scale), offset_mm=guide.offset_mm * k)
    if frame is not None:
        frame = replace(
            frame,
            width_mm=frame.width_mm * k,
            pitch_mm=times(frame.pitch_mm),
            between_mm=frame.between_mm * k,
            gap_mm=frame.gap_mm * k,
        )
    return replace(
        text,
        runs=runs,
        placement=m.scale(1 / k),
        guide=guide,
        frame=frame,
        length_mm=times(text.length_mm),
        wrap_inside=text.wrap_inside.transformed(scale) if text.wrap_inside is not None else None,
        pens=tuple(Pen(pen.x * k, pen.y * k, pen.advance * k) for pen in text.pens),
        space_mm=text.space_mm * k,
    )


def on_own_page(sheet: Sheet, margin_mm: float, text: Box | None = None) -> tuple[Sheet, Transform]:
    """The sheet moved onto a page that fits what is drawn, strokes by their full width, with a margin; and how it was
    moved. `text` is the box of the ink of live text (mm), which a sheet alone can't tell.

    An empty one stays as it is.
    """
    box = join_boxes([each for each in (sheet.drawn_box(), text) if each is not None])
    if box is None:
        return sheet, Transform()
    strokes = [pen_of(outline.look).width_mm / 2 for outline in sheet.outlines() if outline.look.stroke]
    room = margin_mm + max(strokes, default=0.0)
    x0, y0, x1, y1 = box
    matrix = Transform(1, 0, 0, 1, room - x0, room - y0)
    page = (x1 - x0 + 2 * room, y1 - y0 + 2 * room)
    return replace(transformed(sheet, matrix, strokes=False), page_mm=page), matrix


def counted_in(sheet: Sheet, number_mm: float) -> Sheet:
    """The sheet with all its lengths, strokes and page too, in numbers that mean so many mm each."""
    if number_mm == 1.0:
        return sheet
    width, height = (length / number_mm for length in sheet.page_mm)
    scale = Transform(1 / number_mm, 0, 0, 1 / number_mm, 0, 0)
    return replace(transformed(sheet, scale, strokes=True), page_mm=(width, height))


def growth(matrix: Transform) -> float:
    """By how much a matrix makes lengths longer, in the mean of all directions: the root of its determinant."""
    return math.sqrt(abs(matrix.xx * matrix.yy - matrix.xy * matrix.yx))


def moved_look(look: Appearance, matrix: Transform, *, strokes: bool) -> Appearance:
    """The look of what a matrix moves: an uneven pen is turned and mirrored with it; with `strokes` widths scale."""
    if look.pen is not None:
        pen = _turn_of(matrix).transform((*look.pen, 0, 0))
        look = replace(look, pen=uneven_pen(*pen[:4]))
    return scaled_look(look, matrix) if strokes else look


def _turn_of(matrix: Transform) -> Transform:
    """The turn, and turning over, that is nearest to a matrix (its polar decomposition, in closed form for 2 × 2)."""
    over = -1.0 if matrix.xx * matrix.yy < matrix.xy * matrix.yx else 1.0
    angle = math.atan2(over * matrix.xy - matrix.yx, over * matrix.xx + matrix.yy)
    cos, sin = math.cos(angle), math.sin(angle)
    return Transform(over * cos, over * sin, -sin, cos, 0, 0)


def scaled_look(look: Appearance, matrix: Transform) -> Appearance:
    """The look with its stroke, and the dashes in it, as much wider as a matrix makes areas larger."""
    factor = growth(matrix)
    return replace(
        look,
        stroke_width_mm=look.stroke_width_mm * factor,
        dashes_mm=tuple(length * factor for length in look.dashes_mm),
        dash_offset_mm=look.dash_offset_mm * factor,
    )


def addressed(sheet: Sheet, items: Sequence[str]) -> tuple[str, ...]:
    """The same items, a group's id in place of all that it holds: it still says what is meant when there are more or
    fewer of them, as after a correction of the name that they spell.
    """
    left = dict.fromkeys(items)
    for group in sheet.groups():
        held = leaves(sheet, [group.id])
        if len(held) > 1 and held <= left.keys():
            left = dict.fromkeys(name for name in left if name not in held) | {group.id: None}
    return tuple(left)


def leaves(sheet: Sheet, items: Collection[str]) -> set[str]:
    """The ids of the named items that are no groups, and of all that named groups hold."""
    named = [item for name in dict.fromkeys(items) if (item := sheet.find(name)) is not None]
    held = Sheet(sheet.page_mm, tuple(named)).walk()
    return {inner.id for inner in held if not isinstance(inner, Group)}
