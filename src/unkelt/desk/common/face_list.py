"""The faces of the shelf with the words in each: families and their weights, marked and lately used ones first, looked
for by name, kind, weight, width and licence.
"""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import (
    QAbstractListModel,
    QEvent,
    QModelIndex,
    QPoint,
    QRect,
    QSize,
    Qt,
    QTimer,
    Signal,
)
from PySide6.QtGui import QAction, QActionGroup, QColor, QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QListView,
    QMenu,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.drawing import painter_path
from unkelt.desk.common.icons import icon
from unkelt.desk.common.specimens import draw_path
from unkelt.desk.common.theme import THEME, colour, font, px
from unkelt.desk.common.widgets import Index
from unkelt.language import said, tr
from unkelt.lettering.faces import Face
from unkelt.lettering.kinds import Kind
from unkelt.lettering.licence import use_of
from unkelt.session.face_list import FaceBook, FaceRows, Row, Wanted
from unkelt.session.offers import Offers, Specimen

ROW, LINE, BUTTON = 78, 17, 24
WAITING = 24
"""So many specimens are set after the rows that ask for them were painted; of more, those asked for last."""

KINDS = (
    ("", tr("Any kind")),
    (Kind.SCRIPT, tr("Script")),
    (Kind.SERIF, tr("Serif")),
    (Kind.SLAB, tr("Slab serif")),
    (Kind.SANS, tr("Sans")),
    (Kind.DISPLAY, tr("Display")),
)
WEIGHTS = (("", tr("Any weight")), ("light", tr("Light")), ("regular", tr("Regular")), ("bold", tr("Bold")))
WIDTHS = (("", tr("Any width")), ("narrow", tr("Narrow")), ("normal", tr("Normal width")), ("wide", tr("Wide")))
USES = (("", tr("Any licence")), ("business", tr("Open licence, for business too")))

ROW_ROLE = Qt.ItemDataRole.UserRole + 2
SPECIMEN_ROLE = Qt.ItemDataRole.UserRole + 1


class Shelved:
    """What a person marked and used, for all lists of faces. `book` is kept where the window says."""

    book = FaceBook()


class FaceList(QWidget):
    """Families, nearest first, each as a picture of the words; `chosen` when a face is taken."""

    chosen = Signal(Face)

    def __init__(self) -> None:
        super().__init__()
        self.filter = QLineEdit()
        self.filter.setPlaceholderText(tr("find a face by its name"))
        self.filter.setFont(font(9.5))
        self.filter.setAccessibleName(tr("Find a face"))
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(lambda _: self._look())
        self.narrow = QToolButton()
        self.narrow.setObjectName("fold")
        self.narrow.setFont(font(9.5))
        self.narrow.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.narrow.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.narrow.setToolTip(tr("Show faces of one kind, weight, width or licence"))
        self.narrow.setAccessibleName(tr("Show faces of one kind, weight, width or licence"))
        self._groups: dict[str, QActionGroup] = {}
        self.narrow.setMenu(self._menu())
        self.list = _Faces()
        self.list.turned.connect(self._turn)
        self.list.marked.connect(self._mark)
        self.list.clicked.connect(self._taken)
        self.list.activated.connect(self._taken)
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(self.filter, 1)
        row.addWidget(self.narrow)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        layout.addLayout(row)
        layout.addWidget(self.list)
        self._offers: Offers | None = None
        self._opened: set[str] = set()
        self._show_narrowing()

    def show_offers(self, offers: Offers, family: str = "") -> None:
        """The faces that can be chosen, with words set in each; the family that is set now shows all its faces."""
        self._offers = offers
        own = next((face.family for face in offers.faces if face.family.casefold() == family.casefold()), None)
        self._opened = {own} if own else set()
        self._look()
        self._put_on(own)

    def show_shelf(self, offers: Offers) -> None:
        """Faces that were installed meanwhile; what is looked for stays."""
        at = self.list.currentIndex()
        face = at.data(Qt.ItemDataRole.UserRole) if at.isValid() else None
        self._offers = offers
        self._look()
        self._put_on(face.family if face else None)

    def _put_on(self, family: str | None) -> None:
        model = self.list.model()
        rows = model.rows if isinstance(model, _FaceModel) else []
        row = next((number for number, each in enumerate(rows) if each.face.family == family), None)
        if row is not None:
            self.list.setCurrentIndex(model.index(row, 0))

    def wanted(self) -> Wanted:
        """What is looked for."""
        picked = {name: group.checkedAction().data() for name, group in self._groups.items()}
        kind = Kind(picked["kind"]) if picked["kind"] else None
        return Wanted(self.filter.text().strip(), kind, picked["weight"], picked["width"], bool(picked["use"]))

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        for name, choices in (("kind", KINDS), ("weight", WEIGHTS), ("width", WIDTHS), ("use", USES)):
            group = QActionGroup(menu)
            for value, words in choices:
                action = QAction(said(words), group)
                action.setCheckable(True)
                action.setChecked(not value)
                action.setData(str(value))
                menu.addAction(action)
            group.triggered.connect(lambda _: self._look())
            self._groups[name] = group
            menu.addSeparator()
        return menu

    def _show_narrowing(self) -> None:
        count = self.wanted().narrows
        self.narrow.setText(str(count) if count else "")
        self.narrow.setIcon(icon("list-filter", THEME.palette.accent if count else THEME.palette.text, 16))

    def _look(self) -> None:
        self._show_narrowing()
        if self._offers is None:
            return
        wanted = self.wanted()
        found = FaceRows(self._offers.faces, wanted, Shelved.book, self._opened).rows()
        if wanted.name and len({row.face.family for row in found}) == 1:  # the one that was looked for
            self._opened |= {row.face.family for row in found}
            found = FaceRows(self._offers.faces, wanted, Shelved.book, self._opened).rows()
        old = self.list.model()
        kept = old.kept if isinstance(old, _FaceModel) and old.offers is self._offers else {}
        self.list.setModel(_FaceModel(self.list, self._offers, found, kept))

    def _turn(self, family: str) -> None:
        """A family shows all its faces, or its first alone."""
        self._opened ^= {family}
        at = self.list.verticalScrollBar().value()
        self._look()
        self.list.verticalScrollBar().setValue(at)
        self._put_on(family)

    def _mark(self, family: str) -> None:
        Shelved.book = Shelved.book.turned(family)
        self._look()
        self._put_on(family)

    def _taken(self, index: QModelIndex) -> None:
        face = index.data(Qt.ItemDataRole.UserRole)
        Shelved.book = Shelved.book.used(face.family)
        self.chosen.emit(face)


class _Faces(QListView):
    """`turned` asks a family to show its faces or not, `marked` to mark it."""

    turned = Signal(str)
    marked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setUniformItemSizes(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMinimumHeight(round(3.6 * px(ROW)))
        self.setAccessibleName(tr("Faces"))
        self.setItemDelegate(_SpecimenDelegate(self))
        self.setToolTipDuration(8000)

    def _row_at(self, at: QPoint) -> tuple[Row | None, str]:
        """The row at a place of the list, and which of its buttons is there."""
        index = self.indexAt(at)
        row: Row | None = index.data(ROW_ROLE) if index.isValid() else None
        if row is None:
            return None, ""
        buttons = _buttons(self.visualRect(index), row)
        return row, next((name for name, rect in buttons.items() if rect.contains(at)), "")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row, button = self._row_at(event.position().toPoint())
        if row is None or not button or event.button() != Qt.MouseButton.LeftButton:
            super().mousePressEvent(event)
            return
        (self.marked if button == "mark" else self.turned).emit(row.face.family)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if not self._row_at(event.position().toPoint())[1]:
            super().mouseReleaseEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        row: Row | None = self.currentIndex().data(ROW_ROLE) if self.currentIndex().isValid() else None
        many = row is not None and row.of_family > 1
        opens, closes = event.key() == Qt.Key.Key_Right, event.key() == Qt.Key.Key_Left
        if row is not None and ((opens and many and not row.is_open) or (closes and (row.is_open or not row.leads))):
            self.turned.emit(row.face.family)
            return
        super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        row: Row | None = self.currentIndex().data(ROW_ROLE) if self.currentIndex().isValid() else None
        if row is None:
            return
        menu = QMenu(self)
        mark = menu.addAction(tr("Take the mark off") if row.marked else tr("Mark this family"))
        mark.triggered.connect(lambda: self.marked.emit(row.face.family))
        if row.of_family > 1:
            turn = menu.addAction(tr("Show one face of the family") if row.is_open else tr("Show all its faces"))
            turn.triggered.connect(lambda: self.turned.emit(row.face.family))
        menu.popup(event.globalPos())

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.StyleChange:
            self.viewport().update()


class _FaceModel(QAbstractListModel):
    """Specimens are set after a row was first painted, and kept."""

    def __init__(self, parent: QWidget, offers: Offers, rows: Sequence[Row], kept: dict[Face, Specimen]) -> None:
        super().__init__(parent)
        self.offers, self.rows, self.kept = offers, rows, kept
        self._places = {row.face: number for number, row in enumerate(rows)}
        self._wanted: list[Face] = []
        self._turn = QTimer(self)
        self._turn.setSingleShot(True)
        self._turn.timeout.connect(self._set_next)

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.UserRole:
            return row.face
        if role == ROW_ROLE:
            return row
        if role == SPECIMEN_ROLE:
            if row.face not in self.kept:
                self._want(row.face)
            return self.kept.get(row.face)
        if role == Qt.ItemDataRole.ToolTipRole:
            return self.offers.about(row.face)
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return f"{row.title}, {said(row.about(use_of(row.face)))}"
        return row.title if role == Qt.ItemDataRole.DisplayRole else None

    def _want(self, face: Face) -> None:
        """To be set before long: one in a turn of the window's, so that nobody waits for a list to open."""
        if face not in self._wanted:
            self._wanted = [*self._wanted[-WAITING:], face]
            self._turn.start(0)

    def _set_next(self) -> None:
        if self._wanted:
            face = self._wanted.pop()
            self.kept[face] = self.offers.specimen(face)
            row = self.index(self._places[face], 0)
            self.dataChanged.emit(row, row)
            self._turn.start(0)


def _buttons(rect: QRect, row: Row) -> dict[str, QRect]:
    """Where in a row the mark is, and what shows the family's faces."""
    side = px(BUTTON)
    if not row.leads:
        return {}
    right, top = rect.right() - 6 - side, rect.top() + 5
    places = {"mark": QRect(right, top, side, side)}
    if row.of_family > 1:
        places["turn"] = QRect(right, rect.bottom() - 3 - side, side, side)
    return places


class _SpecimenDelegate(QStyledItemDelegate):
    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:  # noqa: ARG002
        return QSize(120, px(ROW))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        palette, rect = option.palette, QRect(option.rect)
        is_chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        specimen: Specimen | None = index.data(SPECIMEN_ROLE)
        row: Row = index.data(ROW_ROLE)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if is_chosen:
            painter.fillRect(rect, palette.highlight())
        ink = palette.highlightedText().color() if is_chosen else palette.text().color()
        buttons = _buttons(rect, row)
        left = 10 if row.leads else 10 + px(14)
        room = rect.adjusted(left, 6, -px(BUTTON) - 14, -2 * px(LINE) - 6)
        if specimen is not None:
            draw_path(painter, painter_path(specimen.path, False), specimen.box, room, ink.name(), left=True)
        words = rect.adjusted(left, px(ROW) - 2 * px(LINE) - 4, -px(BUTTON) - 12, -4)
        muted = ink if is_chosen else colour(THEME.palette.muted)
        self._paint_words(painter, row, specimen, words, (ink, muted))
        for name, place in buttons.items():
            pictures = {"mark": "star-full" if row.marked else "star"}
            picture = pictures.get(name, "chevron-down" if row.is_open else "chevron-right")
            plain = THEME.palette.text if row.marked and name == "mark" else THEME.palette.muted
            icon(picture, ink.name() if is_chosen else plain, 15).paint(painter, place.adjusted(4, 4, -4, -4))
        if not row.leads:
            painter.setPen(colour(THEME.palette.line))
            painter.drawLine(rect.left() + 12, rect.top(), rect.left() + 12, rect.bottom())
        painter.restore()

    @staticmethod
    def _paint_words(
        painter: QPainter, row: Row, specimen: Specimen | None, lines: QRect, inks: tuple[QColor, QColor]
    ) -> None:
        """The name, and beneath it how wide the words would be or how many faces there are, and the licence."""
        words = [said(row.about(use_of(row.face)))]
        if specimen and specimen.lacks:
            words = [tr("has no “{lacks}”").format(lacks=specimen.lacks)]
        elif specimen and specimen.words and (row.is_open or row.of_family == 1):
            words = [said(specimen.words), *words]
        upper, lower = QRect(lines), QRect(lines)
        upper.setHeight(px(LINE))
        lower.setTop(upper.bottom())
        for line, text, ink, weight in ((upper, row.title, inks[0], 500), (lower, " · ".join(words), inks[1], 400)):
            painter.setPen(ink)
            painter.setFont(font(9, weight))
            shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, line.width())
            painter.drawText(line, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)
