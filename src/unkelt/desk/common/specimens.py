"""Choosing by pictures: a text's letters, the forms of a letter."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QPainter, QPainterPath, QPen, QPixmap
from PySide6.QtWidgets import QListWidget, QListWidgetItem

from unkelt.desk.common.drawing import painter_path
from unkelt.desk.common.theme import colour, font, px
from unkelt.geometry.measure import Box
from unkelt.language import said
from unkelt.session.offers import Choice, common_box
from unkelt.session.viewport import Viewport

TILE, A_ROW = 38, 5
LARGE, A_LARGE_ROW = 74, 3
"""Pictures without words, and with them: forms of a letter are looked at closely."""

MOST_ROWS = 3


class PictureStrip(QListWidget):
    """A few choices as pictures to one scale; `taken` with the value of the one that is clicked or entered."""

    taken = Signal(str)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setViewMode(QListWidget.ViewMode.IconMode)
        self.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.setMovement(QListWidget.Movement.Static)
        self.setFont(font(8.5))
        self.setSpacing(1)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setUniformItemSizes(True)
        self.setWordWrap(True)
        self.setAccessibleName(name)
        self.itemClicked.connect(self._take)
        self.itemActivated.connect(self._take)
        self._shown: list[Choice] = []
        self._captions = False

    def paint_anew(self) -> None:
        """In other colours."""
        shown, chosen = self._shown, self.selectedItems()
        value = str(chosen[0].data(Qt.ItemDataRole.UserRole)) if chosen else ""
        self._shown = []
        self.show_choices(shown, value, captions=self._captions)

    def show_choices(self, choices: list[Choice], chosen: str, *, captions: bool) -> None:
        """What can be chosen, as pictures."""
        if choices == self._shown:
            self._choose(chosen)
            return
        self._shown, self._captions = choices, captions
        self.ensurePolished()  # the ink is that of the style sheet
        self.clear()
        box, tile = common_box(choices), LARGE if captions else TILE
        self.setIconSize(QSize(tile, tile))
        for choice in choices:
            ink = self.palette().text().color().name()
            item = QListWidgetItem(_tile(choice, box, self.devicePixelRatioF(), ink, tile), "")
            item.setText(choice.words if captions else "")
            item.setToolTip(said(choice.words))
            item.setData(Qt.ItemDataRole.UserRole, choice.value)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, choice.words)
            item.setSizeHint(QSize(tile + px(8), tile + (px(34) if captions else 6)))
            self.addItem(item)
        self._choose(chosen)
        rows = -(-len(choices) // (A_LARGE_ROW if captions else A_ROW))
        self.setFixedHeight(min(rows, MOST_ROWS) * (tile + (px(36) if captions else 8)) + 6)

    def _choose(self, value: str) -> None:
        for row, choice in enumerate(self._shown):
            self.item(row).setSelected(choice.value == value)

    def _take(self, item: QListWidgetItem) -> None:
        self.taken.emit(str(item.data(Qt.ItemDataRole.UserRole)))


def _tile(choice: Choice, box: Box, ratio: float, ink: str, tile: int) -> QIcon:
    """An icon that looks the same where it is chosen: the row's ground says so, not a tint."""
    picture = QPixmap(round(tile * ratio), round(tile * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    own = (choice.box[0], box[1], choice.box[2], box[3])
    draw_path(
        painter, painter_path(choice.path, False), own, QRect(QPoint(2, 3), QSize(tile - 4, tile - 6)), ink, wide=box
    )
    painter.end()
    icon = QIcon(picture)
    icon.addPixmap(picture, QIcon.Mode.Selected)
    return icon


def draw_path(
    painter: QPainter,
    path: QPainterPath,
    box: Box,
    into: QRect,
    ink: str,
    *,
    left: bool = False,
    wide: Box | None = None,
    filled: bool = True,
) -> None:
    """Curves filled, or as lines, as large as the rectangle holds: in its middle, or at its left; to the scale of a
    common box.
    """
    view = Viewport(into.width(), into.height()).fitted(wide or box, 0)
    own = Viewport(into.width(), into.height(), view.scale).centred(box, left=left)
    painter.save()
    painter.setClipRect(QRectF(into).adjusted(-4, -4, 4, 4))
    painter.translate(into.topLeft())
    painter.scale(own.scale, own.scale)
    painter.translate(-own.x, -own.y)
    if filled:
        painter.fillPath(path, colour(ink))
    else:
        pen = QPen(colour(ink), 1.2)
        pen.setCosmetic(True)
        painter.strokePath(path, pen)
    painter.restore()
