"""Choosing by pictures: the faces of the shelf with the word in each, a text's letters, the forms of a letter."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QPoint,
    QRect,
    QRectF,
    QSize,
    Qt,
    QTimer,
    Signal,
)
from PySide6.QtGui import QIcon, QPainter, QPainterPath, QPen, QPixmap
from PySide6.QtWidgets import (
    QLineEdit,
    QListView,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.drawing import painter_path
from unkelt.desk.common.theme import colour, font, px
from unkelt.desk.common.widgets import Index
from unkelt.geometry.measure import Box
from unkelt.language import said, tr
from unkelt.lettering.faces import Face
from unkelt.session.offers import Choice, Offers, Specimen, common_box
from unkelt.session.viewport import Viewport

ROW, TILE = 62, 42
A_ROW, MOST_ROWS = 5, 3


class FaceList(QWidget):
    """The faces, nearest first, each as a picture of the word; `chosen` when one is taken."""

    chosen = Signal(Face)

    def __init__(self) -> None:
        super().__init__()
        self.filter = QLineEdit()
        self.filter.setPlaceholderText(tr("find a face by its name"))
        self.filter.setFont(font(9.5))
        self.filter.setAccessibleName(tr("Find a face"))
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(self._filter)
        self.list = QListView()
        self.list.setUniformItemSizes(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setMinimumHeight(5 * px(ROW))
        self.list.setAccessibleName(tr("Faces"))
        self.list.setItemDelegate(_SpecimenDelegate(self.list))
        self.list.clicked.connect(self._taken)
        self.list.activated.connect(self._taken)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        layout.addWidget(self.filter)
        layout.addWidget(self.list)
        self._offers: Offers | None = None

    def show_offers(self, offers: Offers, family: str = "") -> None:
        """The faces that can be chosen, with words set in each."""
        self._offers = offers
        self.list.setModel(_FaceModel(self.list, offers, offers.faces))
        row = next((row for row, face in enumerate(offers.faces) if face.family.casefold() == family.casefold()), None)
        if row is not None:
            self.list.setCurrentIndex(self.list.model().index(row, 0))

    def _filter(self, text: str) -> None:
        if self._offers:
            faces = [face for face in self._offers.faces if text.casefold() in face.name.casefold()]
            self.list.setModel(_FaceModel(self.list, self._offers, faces))

    def _taken(self, index: QModelIndex) -> None:
        self.chosen.emit(index.data(Qt.ItemDataRole.UserRole))


class _FaceModel(QAbstractListModel):
    """Specimens are set after a row was first painted, and kept."""

    def __init__(self, parent: QWidget, offers: Offers, faces: Sequence[Face]) -> None:
        super().__init__(parent)
        self.offers, self.faces = offers, faces
        self._kept: dict[Face, Specimen] = {}
        self._wanted: list[Face] = []
        self._turn = QTimer(self)
        self._turn.setSingleShot(True)
        self._turn.timeout.connect(self._set_next)

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.faces)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        face = self.faces[index.row()]
        if role == Qt.ItemDataRole.UserRole:
            return face
        if role == Qt.ItemDataRole.UserRole + 1:
            if face not in self._kept:
                self._want(face)
            return self._kept.get(face)
        if role == Qt.ItemDataRole.ToolTipRole:
            return self.offers.about(face)
        return face.name if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole) else None

    def _want(self, face: Face) -> None:
        """To be set before long: one in a turn of the window's, so that nobody waits for a list to open."""
        if face not in self._wanted:
            self._wanted.append(face)
            self._turn.start(0)

    def _set_next(self) -> None:
        if self._wanted:
            face = self._wanted.pop(0)
            self._kept[face] = self.offers.specimen(face)
            row = self.index(self.faces.index(face), 0)
            self.dataChanged.emit(row, row)
            self._turn.start(0)


class _SpecimenDelegate(QStyledItemDelegate):
    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:  # noqa: ARG002
        return QSize(120, px(ROW))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        palette, rect = option.palette, QRect(option.rect)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        specimen: Specimen | None = index.data(Qt.ItemDataRole.UserRole + 1)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if chosen:
            painter.fillRect(rect, palette.highlight())
        ink = palette.highlightedText() if chosen else palette.text()
        picture = rect.adjusted(10, 6, -10, -px(25))
        if specimen is not None:
            draw_path(painter, painter_path(specimen.path, False), specimen.box, picture, ink.color().name(), left=True)
        painter.setPen(ink.color())
        painter.setFont(font(9))
        line = rect.adjusted(10, px(ROW - 20), -10, -3)
        words = said(specimen.words) if specimen else ""
        if specimen and specimen.lacks:
            words = tr("has no “{lacks}”").format(lacks=specimen.lacks)
        width = painter.fontMetrics().horizontalAdvance(words) + 8
        name = painter.fontMetrics().elidedText(str(index.data()), Qt.TextElideMode.ElideRight, line.width() - width)
        painter.drawText(line, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, name)
        painter.drawText(line, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
        painter.restore()


class PictureStrip(QListWidget):
    """A few choices as pictures to one scale; `taken` with the value of the one that is clicked or entered."""

    taken = Signal(str)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setViewMode(QListWidget.ViewMode.IconMode)
        self.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.setMovement(QListWidget.Movement.Static)
        self.setIconSize(QSize(TILE, TILE))
        self.setFont(font(8.5))
        self.setSpacing(1)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setUniformItemSizes(True)
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
        box = common_box(choices)
        for choice in choices:
            item = QListWidgetItem(
                _tile(choice, box, self.devicePixelRatioF(), self.palette().text().color().name()), ""
            )
            item.setText(choice.words if captions else "")
            item.setToolTip(said(choice.words))
            item.setData(Qt.ItemDataRole.UserRole, choice.value)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, choice.words)
            item.setSizeHint(QSize(TILE + px(8), TILE + (px(20) if captions else 6)))
            self.addItem(item)
        self._choose(chosen)
        rows = -(-len(choices) // A_ROW)
        self.setFixedHeight(min(rows, MOST_ROWS) * (TILE + (px(22) if captions else 8)) + 6)

    def _choose(self, value: str) -> None:
        for row, choice in enumerate(self._shown):
            self.item(row).setSelected(choice.value == value)

    def _take(self, item: QListWidgetItem) -> None:
        self.taken.emit(str(item.data(Qt.ItemDataRole.UserRole)))


def _tile(choice: Choice, box: Box, ratio: float, ink: str) -> QIcon:
    """An icon that looks the same where it is chosen: the row's ground says so, not a tint."""
    picture = QPixmap(round(TILE * ratio), round(TILE * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    own = (choice.box[0], box[1], choice.box[2], box[3])
    draw_path(
        painter, painter_path(choice.path, False), own, QRect(QPoint(2, 3), QSize(TILE - 4, TILE - 6)), ink, wide=box
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
