"""The icon set (Lucide, ISC licence), in the colour of the text beside it."""

from __future__ import annotations

from functools import lru_cache
from importlib.resources import files

from PySide6.QtCore import QByteArray, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer


@lru_cache(maxsize=256)
def icon(name: str, colour: str, size: int = 18) -> QIcon:
    """An icon drawn in one colour, sharp up to twice the scale."""
    source = (files("unkelt") / "assets" / "icons" / f"{name}.svg").read_text(encoding="utf-8")
    renderer = QSvgRenderer(QByteArray(source.replace("currentColor", colour).encode()))
    made = QIcon()
    for mode, strength in ((QIcon.Mode.Normal, 1.0), (QIcon.Mode.Disabled, 0.35)):
        pixmap = QPixmap(2 * size, 2 * size)
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        painter.setOpacity(strength)
        renderer.render(painter)
        painter.end()
        pixmap.setDevicePixelRatio(2)
        made.addPixmap(pixmap, mode)
    return made
