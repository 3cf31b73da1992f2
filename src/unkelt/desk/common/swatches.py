"""Colours to choose from: those of the ticket's key with what they are for, those on the sheet, and any other."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QColorDialog, QComboBox, QMenu, QWidget

from unkelt.desk.common.theme import colour, font
from unkelt.language import said, tr
from unkelt.session.colours import Named

SWATCH = 16


def swatch(value: str, edge: str, ratio: float = 2.0) -> QIcon:
    """A colour as a round picture with an edge."""
    picture = QPixmap(round(SWATCH * ratio), round(SWATCH * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(colour(edge))
    painter.setBrush(QColor(value))
    painter.drawEllipse(1, 1, SWATCH - 3, SWATCH - 3)
    painter.end()
    return QIcon(picture)


def asked_colour(parent: QWidget, now: str) -> str:
    """A colour that a person mixes or writes, as "#rrggbb"; empty where they think better of it."""
    found = QColorDialog.getColor(QColor(now or "#000000"), parent, tr("Another colour"))
    return found.name() if found.isValid() else ""


def colour_menu(parent: QWidget, named: Sequence[Named], edge: str) -> QMenu:
    """A menu of colours; each action holds its colour as data, the last one an empty text: any other."""
    menu = QMenu(parent)
    for each in named:
        action = menu.addAction(swatch(each.value, edge), said(each.words))
        action.setData(each.value)
    menu.addSeparator()
    menu.addAction(tr("Another colour…")).setData("")
    return menu


class Swatches(QComboBox):
    """A list of colours with pictures; its first entry is the step's own choice."""

    taken = Signal()

    def __init__(self, named: Sequence[Named], now: str) -> None:
        super().__init__()
        self.setFont(font(10))
        self.setIconSize(QSize(SWATCH, SWATCH))
        edge = self.palette().mid().color().name()
        self._edge = edge
        self.addItem(tr("as the ticket says"), "")
        for each in named:
            self.addItem(swatch(each.value, edge), said(each.words), each.value)
        self.addItem(tr("Another colour…"), "?")
        self.show_colour(now)
        self._now = now
        self.currentIndexChanged.connect(self._changed)

    def colour(self) -> str:
        """The colour that is chosen, or nothing."""
        found = str(self.currentData() or "")
        return "" if found == "?" else found

    def show_colour(self, value: str) -> None:
        """Chooses a colour, which may be a new one."""
        if self.findData(value) < 0:
            self.insertItem(self.count() - 1, swatch(value, self._edge), value, value)
        self.setCurrentIndex(self.findData(value))

    def _changed(self) -> None:
        if self.currentData() == "?":
            found = asked_colour(self, self._now)
            self.blockSignals(True)
            self.show_colour(found or self._now)
            self.blockSignals(False)
        self._now = self.colour()
        self.taken.emit()
