"""From a sheet to Qt's drawing: the one module that knows both an outline and a QPainterPath."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

import numpy as np
from fontTools.misc.transform import Transform
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen, QTransform

from unkelt.desk.common.theme import LIGHT, Palette, colour
from unkelt.geometry.cache import TopicOfObjects
from unkelt.geometry.measure import Box, bounds, find_boxes, join_boxes
from unkelt.geometry.path import CUBIC, LINE, QUAD, Floats, Ints, Path
from unkelt.geometry.region import apart
from unkelt.job.extent import measured_box
from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import set_lettering
from unkelt.proof.burn import burn
from unkelt.proof.imported import Body
from unkelt.session.viewport import Viewport
from unkelt.sheet.appearance import Appearance, Operation
from unkelt.sheet.model import Lettering, Outline, Picture, Sheet

IN_HAND = 6000
"""What has more segments is dragged as a box: a frame has to be drawn within some hundredths of a second."""
AT_ONCE = 300
"""An outline of more segments is drawn part by part: while Qt draws a path, nothing else can run."""
OF_A_LETTER = 30
"""Segments that a letter has, or fewer."""
PITCH_MM, LENS_CELLS = 0.15, 1_500_000
"""How far apart the raster lines of the Burn lens lie, on sheets small enough to be burnt while one looks."""


class Lens(StrEnum):
    """Ink as drawn, Blade what the tool follows, Burn what an engraver burns, Nodes with nodes and handles."""

    INK = "Ink"
    BLADE = "Blade"
    BURN = "Burn"
    NODES = "Nodes"


def paper(palette: Palette, lens: Lens) -> str:
    """What a sheet is drawn on: light where its own colours are shown, whatever the window's palette."""
    return LIGHT.page if lens in (Lens.INK, Lens.BURN) else palette.page


def on_paper(palette: Palette, lens: Lens) -> Palette:
    """The colours that can be read on what a sheet is drawn on."""
    return LIGHT if paper(palette, lens) == LIGHT.page else palette


def painter_path(path: Path, even_odd: bool) -> QPainterPath:
    """The same curves as Qt draws them, in mm."""
    made = QPainterPath()
    made.setFillRule(Qt.FillRule.OddEvenFill if even_odd else Qt.FillRule.WindingFill)
    points, degrees = path.points.tolist(), path.degrees.tolist()
    for a, b, closed in zip(path.starts.tolist(), path.stops.tolist(), path.closed.tolist(), strict=True):
        made.moveTo(*points[a][0])
        for (_, p1, p2, p3), degree in zip(points[a:b], degrees[a:b], strict=True):
            if degree == LINE:
                made.lineTo(*p3)
            elif degree == QUAD:
                made.quadTo(*p1, *p3)
            elif degree == CUBIC:
                made.cubicTo(*p1, *p2, *p3)
        if closed:
            made.closeSubpath()
    return made


@dataclass(frozen=True)
class _Shape:
    source: Path
    even_odd: bool
    look: Appearance
    operation: Operation | None
    live: bool = False

    @property
    def path(self) -> QPainterPath:
        """Made when it first comes into view, and then known for every sheet that has the same outline."""
        return self.source.once(_even_odd_path if self.even_odd else _nonzero_path)


def _even_odd_path(path: Path) -> QPainterPath:
    return painter_path(path, even_odd=True)


def _nonzero_path(path: Path) -> QPainterPath:
    return painter_path(path, even_odd=False)


class Drawing:
    """A sheet made ready to be drawn, once, and drawn as often as one likes."""

    def __init__(self, sheet: Sheet, workshop: Workshop) -> None:
        self.sheet, self.workshop = sheet, workshop

    @cached_property
    def shapes(self) -> list[_Shape]:
        """What is drawn in one call each, in the order of the sheet, in which the later lies on top: live text, too."""
        ticket = self.workshop.ticket
        shapes: list[_Shape] = []
        for item in self.sheet.walk():
            if isinstance(item, Outline):
                operation = ticket.operation(item.look)
                parts = apart(item.path) if len(item.path.points) > AT_ONCE else (item.path,)
                shapes += [_Shape(part, item.look.even_odd, item.look, operation) for part in parts]
            elif isinstance(item, Lettering):
                for _, run, path in set_lettering(item, self.workshop.shelf).letters(item.placement):
                    look = (run or item.runs[0]).look
                    shapes.append(_Shape(path, False, look, ticket.operation(look), live=True))
        return shapes

    @cached_property
    def ink(self) -> Box | None:
        """What is measured against the ticket; live text counts by its ink."""
        boxes = [measured_box(self.sheet, self.workshop.ticket)]
        boxes += [set_lettering(t, self.workshop.shelf).ink(t.placement) for t in self.sheet.letterings()]
        return join_boxes([box for box in boxes if box])

    @cached_property
    def everything(self) -> Box:
        """The page and all that lies beside it."""
        page = (0.0, 0.0, *self.sheet.page_mm)
        return join_boxes([page, *([self.ink] if self.ink else [])]) or page

    @cached_property
    def boxes(self) -> Floats:
        """(s, 4) the box of each shape in mm."""
        find_boxes([shape.source for shape in self.shapes])
        return np.array([bounds(shape.source) or (0.0, 0.0, 0.0, 0.0) for shape in self.shapes]).reshape(-1, 4)

    @cached_property
    def _segments(self) -> Ints:
        """(s,) how many segments each shape has."""
        return np.array([len(shape.source.points) for shape in self.shapes], dtype=np.intp)

    @cached_property
    def _about(self) -> int:
        """How many segments there may be, before any shape is made."""
        letters = sum(len(lettering.text) for lettering in self.sheet.letterings())
        return letters * OF_A_LETTER + sum(len(outline.path.points) for outline in self.sheet.outlines())

    def quick(self, most: int, lens: Lens, view: Viewport) -> bool:
        """Whether so few segments are in view, and all that the lens needs is at hand, that it can be drawn while one
        waits.
        """
        if lens is Lens.BURN and "burnt" not in self.__dict__:
            return False
        if "shapes" not in self.__dict__ and self._about > most:
            return False
        if int(self._segments.sum()) <= most:
            return True
        return "boxes" in self.__dict__ and int(self._segments[view.seen(self.boxes)].sum()) <= most

    def make_ready(self) -> None:
        """See the function of that name."""
        _ = self.everything, self.boxes, self._segments

    def paint(
        self,
        painter: QPainter,
        view: Viewport,
        lens: Lens,
        palette: Palette,
        *,
        page: bool = True,
        unwanted: Callable[[], bool] = lambda: False,
    ) -> bool:
        """Draws the page and the art as far as they are in view; the painter is left as it was. False where it was
        given up since nobody wants it any more.
        """
        if page:
            self.paint_page(painter, view, lens, palette)
        painter.save()
        painter.setTransform(_placed(view), True)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for item in self.sheet.walk():
            if isinstance(item, Picture):
                painter.setPen(_pen(palette.muted, 1.0, Qt.PenStyle.DashLine))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawPolygon([QPointF(x, y) for x, y in item.corners])
        if lens is Lens.BURN:
            self._paint_burn(painter)
        given_up = False
        for number in view.seen(self.boxes).tolist():
            shape = self.shapes[number]
            if not shape.look.visible or (lens is Lens.BURN and self._is_burnt(shape)):
                continue
            if given_up := unwanted():
                break
            _dress(painter, shape, lens, palette)
            if lens is Lens.INK and shape.look.stroke_below and shape.look.stroke:
                painter.strokePath(shape.path, painter.pen())
                painter.setPen(Qt.PenStyle.NoPen)
            if lens is Lens.INK and shape.look.stroke and shape.look.stroke_side != "centre":
                _paint_one_sided(painter, shape)
                continue
            painter.drawPath(shape.path)
        painter.restore()
        if lens is Lens.NODES and not given_up:
            self._paint_nodes(painter, view, palette)
        return not given_up

    def paint_page(self, painter: QPainter, view: Viewport, lens: Lens, palette: Palette) -> None:
        """Draws the page alone."""
        painter.save()
        painter.setTransform(_placed(view), True)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(_pen(palette.page_edge))
        painter.setBrush(colour(paper(palette, lens)))
        painter.drawRect(QRectF(0, 0, *self.sheet.page_mm))
        painter.restore()

    def paint_solid(self, painter: QPainter, view: Viewport, value: QColor) -> None:
        """The ink alone, all in one colour; lines as hairlines."""
        painter.save()
        painter.setTransform(_placed(view), True)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for number in view.seen(self.boxes).tolist():
            shape = self.shapes[number]
            if shape.look.visible:
                painter.setBrush(value if shape.look.fill else Qt.BrushStyle.NoBrush)
                painter.setPen(_pen(value.name(), 1.4) if shape.look.fill is None else Qt.PenStyle.NoPen)
                painter.drawPath(shape.path)
        painter.restore()

    def paint_tinted(
        self, painter: QPainter, view: Viewport, value: str, unwanted: Callable[[], bool] = lambda: False
    ) -> bool:
        """The ink in one colour with its lines, so that it shows over ink of any colour. False where it was given
        up.
        """
        painter.save()
        painter.setTransform(_placed(view), True)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(_pen(value, 1.5))
        for number in view.seen(self.boxes).tolist():
            shape = self.shapes[number]
            if unwanted():
                painter.restore()
                return False
            if shape.look.visible:
                painter.setBrush(colour(value, 70) if shape.look.fill else Qt.BrushStyle.NoBrush)
                painter.drawPath(shape.path)
        painter.restore()
        return True

    def paint_in_hand(self, painter: QPainter, view: Viewport, matrix: Transform, value: str) -> bool:
        """All of it in one colour, moved by a matrix, for while it is dragged. False where it has so many segments that
        its boxes stand for it.
        """
        painter.save()
        painter.setTransform(_placed(view), True)
        painter.setTransform(QTransform(*matrix), True)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(_pen(value, 1.4))
        whole = self._about <= IN_HAND
        painter.setBrush(colour(value, 60) if whole else Qt.BrushStyle.NoBrush)
        if whole:
            for shape in self.shapes:
                painter.drawPath(shape.path)
        elif self.ink is not None:
            x0, y0, x1, y1 = self.ink
            painter.drawRect(QRectF(QPointF(x0, y0), QPointF(x1, y1)))
        painter.restore()
        return whole

    def _is_burnt(self, shape: _Shape) -> bool:
        plain = not self.workshop.ticket.key and shape.look.fill is not None and shape.look.stroke is None
        return not shape.live and (plain or shape.operation is Operation.ENGRAVE)

    @cached_property
    def burnt(self) -> tuple[QImage, Box] | None:
        """The engraving as it would burn, and where it lies."""
        found = burn(
            [Body(o.path, o.look.fill, o.look.stroke, o.look.even_odd) for o in self.sheet.outlines()],
            self.workshop.ticket,
            PITCH_MM,
            LENS_CELLS,
        )
        if found is None:
            return None
        shades = found.shades()
        rows, columns = shades.shape
        # Qt keeps the picture's bytes only by reference: the copy is its own.
        image = QImage(shades.tobytes(), columns, rows, columns, QImage.Format.Format_Grayscale8).copy()
        return image, found.box

    def _paint_burn(self, painter: QPainter) -> None:
        if self.burnt is not None:
            image, (x0, y0, x1, y1) = self.burnt
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Multiply)
            painter.drawImage(QRectF(QPointF(x0, y0), QPointF(x1, y1)), image)
            painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceOver)

    def _paint_nodes(self, painter: QPainter, view: Viewport, palette: Palette) -> None:
        """Nodes as squares, handles as small rings, in pixels so that they keep their size."""
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        seen = [self.shapes[number].source for number in view.seen(self.boxes).tolist()]
        found, handles = view.nodes_in(seen)
        nodes = [QRectF(x - 2.2, y - 2.2, 4.4, 4.4) for x, y in found]
        stems = [QLineF(*stem) for stem in handles]
        painter.setPen(QPen(colour(palette.hold, 150), 1))
        if len(stems) < 4000:
            painter.drawLines(stems)
        painter.setBrush(colour(palette.page))
        if len(stems) < 4000:  # more would hide the line they belong to
            for stem in stems:
                painter.drawEllipse(stem.p2(), 2, 2)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(palette.accent))
        painter.drawRects(nodes)
        painter.restore()


_DRAWINGS: TopicOfObjects[Drawing] = TopicOfObjects("drawings", 40)


def drawing_of(sheet: Sheet, workshop: Workshop) -> Drawing:
    """The drawing of a sheet as a workshop sees it, the same one however often it is asked for; from any thread."""
    return _DRAWINGS.get(lambda: Drawing(sheet, workshop), sheet, workshop)


def make_ready(sheet: Sheet, workshop: Workshop) -> None:
    """Works out what the window asks for as soon as the sheet is shown: for the thread that the sheet comes from."""
    drawing_of(sheet, workshop).make_ready()


def _placed(view: Viewport) -> QTransform:
    return QTransform(view.scale, 0, 0, view.scale, -view.x * view.scale, -view.y * view.scale)


def _pen(value: str, width: float = 1.0, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    pen = QPen(colour(value), width, style)
    pen.setCosmetic(True)
    return pen


_JOINS = {"round": Qt.PenJoinStyle.RoundJoin, "bevel": Qt.PenJoinStyle.BevelJoin}
_CAPS = {"round": Qt.PenCapStyle.RoundCap, "square": Qt.PenCapStyle.SquareCap}


def _ink(value: str, opacity: float) -> QColor:
    ink = QColor(value)
    ink.setAlphaF(opacity)
    return ink


def _paint_one_sided(painter: QPainter, shape: _Shape) -> None:
    """The fill, and the half of a stroke twice as wide that lies inside or outside it."""
    pen = painter.pen()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.drawPath(shape.path)
    painter.save()
    clip = shape.path
    if shape.look.stroke_side == "outside":
        width = 2 * shape.look.stroke_width_mm * max(shape.look.mitre_limit, 2.0)
        around = QPainterPath()
        around.addRect(shape.path.boundingRect().adjusted(-width, -width, width, width))
        clip = around.subtracted(shape.path)
    painter.setClipPath(clip, Qt.ClipOperation.IntersectClip)
    pen.setCosmetic(False)
    pen.setWidthF(2 * shape.look.stroke_width_mm)
    painter.strokePath(shape.path, pen)
    painter.restore()


def _dress(painter: QPainter, shape: _Shape, lens: Lens, palette: Palette) -> None:
    """Sets pen and brush for one shape as the lens wants it."""
    look = shape.look
    if lens is Lens.INK:
        painter.setBrush(_ink(look.fill, look.fill_opacity) if look.fill else Qt.BrushStyle.NoBrush)
        if look.stroke:
            pen = QPen(_ink(look.stroke, look.stroke_opacity), max(look.stroke_width_mm, 0.0))
            pen.setJoinStyle(_JOINS.get(look.line_join, Qt.PenJoinStyle.SvgMiterJoin))
            pen.setCapStyle(_CAPS.get(look.line_cap, Qt.PenCapStyle.FlatCap))
            pen.setMiterLimit(look.mitre_limit)
            pen.setCosmetic(look.stroke_width_mm < 0.3)
            if pen.isCosmetic():
                pen.setWidthF(1.2)
            painter.setPen(pen)
        else:
            painter.setPen(Qt.PenStyle.NoPen)
        painter.setOpacity(0.55 if shape.live else 1.0)
        return
    painter.setOpacity(1.0)
    if lens is Lens.NODES:
        painter.setBrush(colour(palette.art_fill, 70))
        painter.setPen(_pen(palette.art_line, 1.0))
        return
    known: dict[Operation | None, str] = {Operation.SCORE: palette.score, Operation.ENGRAVE: palette.engrave}
    line = known.get(shape.operation, palette.art_line)
    filled = look.fill is not None
    painter.setBrush(colour(palette.art_fill, 150) if filled else Qt.BrushStyle.NoBrush)
    style = Qt.PenStyle.DashLine if shape.live or shape.operation is Operation.SCORE else Qt.PenStyle.SolidLine
    painter.setPen(_pen(line, 1.0 if shape.live else 1.4, style))
