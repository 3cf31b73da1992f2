"""The light table with a large sheet, frame by frame, beside a plain QGraphicsView of the same outlines."""

from __future__ import annotations

import os
import statistics
import time
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QEventLoop, QPoint, QTimer
from PySide6.QtGui import QImage, QPainter, QPen
from PySide6.QtWidgets import QApplication, QGraphicsScene, QGraphicsView, QWidget
from tests.builders import outline, sheet, workshop

from benchmarks.timing import Row
from unkelt.desk.app import make_application
from unkelt.desk.common.drawing import Drawing, Lens, painter_path
from unkelt.desk.table.table import LightTable
from unkelt.geometry.path import CUBIC, Path

FRAMES = 40


def wavy(x: float, y: float, segments: int, radius: float) -> Path:
    """A ring of so many cubics about a place."""
    turn = np.linspace(0, 2 * np.pi, segments * 3 + 1)
    r = radius * (1 + 0.15 * np.sin(5 * turn))
    ring = np.stack([x + r * np.cos(turn), y + r * np.sin(turn)], axis=1)
    points = np.stack([ring[0:-1:3], ring[1::3], ring[2::3], ring[3::3]], axis=1)
    return Path(points, np.full(segments, CUBIC, np.uint8), np.zeros(1, np.intp), np.array([True]))


def large(shapes: int, segments: int) -> Drawing:
    side = int(np.ceil(np.sqrt(shapes)))
    outlines = [
        outline(f"p{k}", wavy(12 + 24 * (k % side), 12 + 24 * (k // side), segments, 10)) for k in range(shapes)
    ]
    return Drawing(sheet(*outlines, page=(24.0 * side, 24.0 * side)), workshop())


def frames(widget: QWidget, step: Callable[[int], None]) -> list[float]:
    """Seconds each frame takes, from the movement to the pixels, with a breath between them as a hand makes it."""
    image = QImage(widget.size(), QImage.Format.Format_RGB32)
    found = []
    for number in range(FRAMES):
        start = time.perf_counter()
        step(number)
        painter = QPainter(image)
        QWidget.render(widget, painter, QPoint(0, 0))
        painter.end()
        found.append(time.perf_counter() - start)
        loop = QEventLoop()
        QTimer.singleShot(8, loop.quit)
        loop.exec()
    return found


def rows() -> list[Row]:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    make_application()
    result = []
    for shapes, segments in ((500, 40), (5000, 40)):
        drawing = large(shapes, segments)
        table = LightTable()
        table.resize(666, 600)
        table.show()
        table.set_lens(Lens.BLADE)
        table.show_drawing(drawing, fit=True)
        view = QGraphicsView()
        view.resize(666, 600)
        scene = QGraphicsScene()
        pen = QPen()
        pen.setCosmetic(True)
        for item in drawing.sheet.outlines():
            scene.addPath(painter_path(item.path, False), pen)
        view.setScene(scene)
        view.setRenderHint(QPainter.RenderHint.Antialiasing)
        view.show()
        view.fitInView(scene.sceneRect())
        QApplication.processEvents()
        frames(table, lambda _: None)
        for name, ours, theirs in (
            ("pan", lambda _, t=table: t.pan(7, 3), lambda _, v=view: v.translate(7, 3)),
            ("zoom in", lambda _, t=table: t.zoom(1.04), lambda _, v=view: v.scale(1.04, 1.04)),
            ("zoom out", lambda _, t=table: t.zoom(1 / 1.04), lambda _, v=view: v.scale(1 / 1.04, 1 / 1.04)),
        ):
            mine, plain = frames(table, ours), frames(view, theirs)
            size = f"{shapes * segments:,} segments"
            result.append(
                Row(f"{name}, median frame", size, statistics.median(mine), "QGraphicsView", statistics.median(plain))
            )
            result.append(Row(f"{name}, worst frame", size, max(mine), "QGraphicsView", max(plain)))
    return result
