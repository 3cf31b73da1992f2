"""The icon set (Lucide, ISC licence), in the colour of the text beside it; and pictures of what steps do."""

from __future__ import annotations

from functools import lru_cache
from importlib.resources import files

from PySide6.QtCore import QByteArray, QSize, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer

from unkelt.desk.common.theme import Palette


@lru_cache(maxsize=256)
def step_picture(name: str, palette: Palette) -> QIcon:
    """What a step does, in small: grey before it, in the accent after it."""
    return _drawn(f"steps/{name}", palette.accent, QSize(34, 24), palette.muted)


@lru_cache(maxsize=256)
def icon(name: str, colour: str, size: int = 18) -> QIcon:
    """An icon drawn in one colour, sharp up to twice the scale."""
    return _drawn(f"icons/{name}", colour, QSize(size, size))


def _drawn(path: str, colour: str, size: QSize, before: str = "") -> QIcon:
    file = files("unkelt") / "assets" / f"{path}.svg"
    made = QIcon()
    if not file.is_file():
        return made
    source = file.read_text(encoding="utf-8").replace("currentColor", colour).replace("#before", before)
    renderer = QSvgRenderer(QByteArray(source.encode()))
    for mode, strength in ((QIcon.Mode.Normal, 1.0), (QIcon.Mode.Selected, 1.0), (QIcon.Mode.Disabled, 0.35)):
        pixmap = QPixmap(size * 2)
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        painter.setOpacity(strength)
        renderer.render(painter)
        painter.end()
        pixmap.setDevicePixelRatio(2)
        made.addPixmap(pixmap, mode)
    return made
