"""The layers of material: what is on the sheet, topmost first, with picture, name, colour, eye and lock."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from typing import NamedTuple

from PySide6.QtCore import (
    QAbstractTableModel,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPoint,
    QRect,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QDropEvent, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QLineEdit,
    QMenu,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.drawing import painter_path
from unkelt.desk.common.icons import icon
from unkelt.desk.common.specimens import draw_path
from unkelt.desk.common.swatches import swatch
from unkelt.desk.common.theme import THEME, font, px
from unkelt.desk.common.widgets import Index
from unkelt.language import said, tr
from unkelt.session.entries import Entry

ICON = 24
BENEATH = Qt.ItemDataRole.UserRole
PICTURED_SEGMENTS = 4000
"""What has more goes without a picture: while one is drawn, the window can't answer."""
FILTERED_FROM = 12
"""From so many items on there is a field to find one by a word."""


class Column(NamedTuple):
    """The places of the columns."""

    EYE: int = 0
    ITEM: int = 1
    COLOUR: int = 2
    LOCK: int = 3


COLUMN = Column()


class _Model(QAbstractTableModel):
    """The entries, topmost first, those only that pass the filter. Asked for what is in view alone."""

    renamed = Signal(str, str)

    def __init__(self, layers: Layers) -> None:
        super().__init__(layers)
        self._layers = layers
        self.entries: list[Entry] = []
        self.word = ""
        self._order: list[int] = []
        self._pictures: dict[int, QIcon] = {}

    def show(self, entries: list[Entry], word: str) -> None:
        self.beginResetModel()
        if entries is not self.entries:
            self._pictures.clear()
        self.entries, self.word = entries, word
        self._order = [
            place
            for place in reversed(range(len(entries)))
            if not word or word in f"{entries[place].name} {entries[place].what} {entries[place].operation}".casefold()
        ]
        self.endResetModel()

    def entry(self, row: int) -> Entry:
        return self.entries[self._order[row]]

    def places(self, rows: Iterable[int]) -> list[int]:
        """The places on the sheet of some rows."""
        return [self._order[row] for row in rows if row < len(self._order)]

    def rows(self, places: Collection[int]) -> list[int]:
        """The rows that some places on the sheet stand in, as far as they pass the filter."""
        return [row for row, place in enumerate(self._order) if place in places]

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self._order)

    def columnCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(COLUMN)

    def flags(self, index: Index) -> Qt.ItemFlag:
        usual = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        if not index.isValid():
            return Qt.ItemFlag.ItemIsDropEnabled
        more = Qt.ItemFlag.ItemIsEditable if index.column() == COLUMN.ITEM else Qt.ItemFlag.NoItemFlags
        return usual | Qt.ItemFlag.ItemIsDragEnabled | more

    def supportedDropActions(self) -> Qt.DropAction:
        return Qt.DropAction.MoveAction

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        entry, column = self.entry(index.row()), index.column()
        match role:
            case Qt.ItemDataRole.DisplayRole | Qt.ItemDataRole.EditRole if column == COLUMN.ITEM:
                return entry.name.strip("“”") if role == Qt.ItemDataRole.EditRole else entry.name
            case _ if role == BENEATH:
                return said(entry.operation)
            case Qt.ItemDataRole.DecorationRole:
                return self._decoration(entry, index.row(), column)
            case Qt.ItemDataRole.ToolTipRole | Qt.ItemDataRole.AccessibleTextRole:
                return self._words(entry, column)
        return None

    def setData(self, index: Index, value: object, role: int = Qt.ItemDataRole.EditRole) -> bool:
        entry, name = self.entry(index.row()), str(value).strip()
        if role == Qt.ItemDataRole.EditRole and name and name != entry.name.strip("“”"):
            self.renamed.emit(entry.id, name)
        return False  # the sheet tells when it is so

    def _words(self, entry: Entry, column: int) -> str:
        hidden, locked = entry.id in self._layers.hidden, entry.id in self._layers.locked
        return {
            COLUMN.EYE: tr("Show on the table") if hidden else tr("Hide on the table"),
            COLUMN.ITEM: f"{entry.name}: {said(entry.what)}, {said(entry.operation)}, {entry.size} mm",
            COLUMN.COLOUR: tr("Colour and operation: {words}").format(words=said(entry.operation)),
            COLUMN.LOCK: tr("Unlock") if locked else tr("Lock against picking"),
        }[column]

    def _decoration(self, entry: Entry, row: int, column: int) -> QIcon | None:
        muted, text = THEME.palette.muted, THEME.palette.text
        if column == COLUMN.EYE:
            hidden = entry.id in self._layers.hidden
            return icon("eye-off" if hidden else "eye", muted if hidden else text, 15)
        if column == COLUMN.LOCK:
            locked = entry.id in self._layers.locked
            return icon("lock" if locked else "lock-open", text if locked else THEME.palette.page_edge, 13)
        if column == COLUMN.COLOUR:
            return swatch(entry.colours[0], muted) if entry.colours else None
        return self._picture(row)

    def forget_pictures(self) -> None:
        self._pictures.clear()

    def _picture(self, row: int) -> QIcon | None:
        place = self._order[row]
        entry = self.entries[place]
        if entry.path is None or entry.box is None or len(entry.path.points) > PICTURED_SEGMENTS:
            return None
        if place not in self._pictures:
            self._pictures[place] = self._layers.picture(entry)
        return self._pictures[place]


class _Named(QStyledItemDelegate):
    """A picture, the name, and beneath it what the machine does with it."""

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        rect, palette = QRect(option.rect), option.palette
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, palette.highlight())
        picture = index.data(Qt.ItemDataRole.DecorationRole)
        if isinstance(picture, QIcon):
            area = QRect(rect.left() + 2, rect.center().y() - ICON // 2, ICON, ICON)
            picture.paint(painter, area)
        words = rect.adjusted(ICON + 8, 2, -2, -2)
        half = words.height() // 2
        for text, face, ink, area in (
            (str(index.data()), font(10), palette.text(), words.adjusted(0, 0, 0, -half + 3)),
            (str(index.data(BENEATH)), font(8.5), palette.placeholderText(), words.adjusted(0, half, 0, 0)),
        ):
            painter.setFont(face)
            painter.setPen(ink.color())
            short = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, area.width())
            painter.drawText(area, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, short)


class _Small(QStyledItemDelegate):
    """A picture in the middle of its cell, no larger than it was made."""

    def __init__(self, parent: QWidget, size: int) -> None:
        super().__init__(parent)
        self._size = size

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        rect, state = QRect(option.rect), option.state
        if state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, option.palette.highlight())
        picture = index.data(Qt.ItemDataRole.DecorationRole)
        if isinstance(picture, QIcon):
            area = QRect(0, 0, self._size, self._size)
            area.moveCenter(rect.center())
            picture.paint(painter, area)


class _Table(QTableView):
    """Rows that can be dragged to another place: `dropped` with the row that they were let go above."""

    dropped = Signal(int)

    def dropEvent(self, event: QDropEvent) -> None:
        at = event.position().toPoint()
        index = self.indexAt(at)
        row = self.model().rowCount() if not index.isValid() else index.row()
        if index.isValid() and at.y() > self.visualRect(index).center().y():
            row += 1
        event.setDropAction(Qt.DropAction.IgnoreAction)  # the rows come anew with the sheet
        event.accept()
        self.dropped.emit(row)


class Layers(QWidget):
    """`changed` when other items are chosen, `shown` when some are hidden or come back; what is asked for is told with
    the ids of the items.
    """

    changed = Signal()
    shown = Signal()
    renamed = Signal(str, str)
    colour_asked = Signal(list, QPoint)
    moved = Signal(list, str, str)
    """Items, and what they are to lie directly above; without it, “front” or “back”."""
    edit_asked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.hidden: set[str] = set()
        self.locked: set[str] = set()
        self.filter = QLineEdit()
        self.filter.setPlaceholderText(tr("filter by a word"))
        self.filter.setFont(font(9.5))
        self.filter.setAccessibleName(tr("Filter the layers"))
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(self._filter)
        self.table = _Table()
        self._model = _Model(self)
        self._model.renamed.connect(self.renamed)
        self.table.setModel(self._model)
        self._dress_table()
        self._quiet = False
        self._chosen: list[Entry] | None = None
        """Until something else is chosen: they are asked for often, and may be thousands."""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        held = QVBoxLayout()
        held.setContentsMargins(10, 2, 10, 4)
        held.addWidget(self.filter)
        layout.addLayout(held)
        layout.addWidget(self.table, 1)

    def _dress_table(self) -> None:
        table = self.table
        table.setFont(font(10))
        header = table.horizontalHeader()
        header.hide()
        header.setMinimumSectionSize(10)
        for column, width in ((COLUMN.EYE, 27), (COLUMN.COLOUR, 27), (COLUMN.LOCK, 25)):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
            header.resizeSection(column, width)
            table.setItemDelegateForColumn(column, _Small(table, 16 if column == COLUMN.COLOUR else 15))
        header.setSectionResizeMode(COLUMN.ITEM, QHeaderView.ResizeMode.Stretch)
        table.setItemDelegateForColumn(COLUMN.ITEM, _Named(table))
        table.verticalHeader().hide()
        table.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        table.verticalHeader().setDefaultSectionSize(px(36))
        table.setIconSize(QSize(ICON, ICON))
        table.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        table.setShowGrid(False)
        table.setWordWrap(False)
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        table.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed)
        table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        table.setAccessibleName(tr("Layers"))
        table.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        table.setDragDropOverwriteMode(False)
        table.setDropIndicatorShown(True)
        table.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        table.customContextMenuRequested.connect(self._menu)
        table.clicked.connect(self._clicked)
        table.doubleClicked.connect(self._double_clicked)
        table.dropped.connect(self._drop)
        table.selectionModel().selectionChanged.connect(self._chosen_changed)

    @property
    def entries(self) -> list[Entry]:
        """All that is listed, in the sheet's order."""
        return self._model.entries

    # what is shown

    def show_entries(self, entries: list[Entry]) -> None:
        """The items of a sheet; those that were chosen and are still there stay chosen."""
        self._quiet = True
        self._show(entries)
        if len(entries) == 1 and not self.chosen():
            self.choose(0)
        self.filter.setVisible(len(entries) >= FILTERED_FROM)
        self._quiet = False

    def _show(self, entries: list[Entry]) -> None:
        kept = {entry.id for entry in self.chosen()}
        self._model.show(entries, self.filter.text().casefold().strip())
        self._chosen = None
        self._select({place for place, entry in enumerate(entries) if entry.id in kept} if kept else set())

    def _filter(self) -> None:
        """What doesn't pass is no longer chosen: a step works on what is to be seen."""
        before = self.chosen()
        self._quiet = True
        self._show(self.entries)
        self._quiet = False
        if self.chosen() != before:
            self.changed.emit()

    def _chosen_changed(self) -> None:
        self._chosen = None
        if not self._quiet:
            self.changed.emit()

    def paint_anew(self) -> None:
        """In other colours."""
        self._model.forget_pictures()
        self.table.viewport().update()

    def picture(self, entry: Entry) -> QIcon:
        """The item by itself."""
        ratio = self.devicePixelRatioF()
        picture = QPixmap(round(ICON * ratio), round(ICON * ratio))
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        assert entry.path is not None
        assert entry.box is not None
        ink = self.palette().text().color().name()
        drawn = painter_path(entry.path, True)
        draw_path(painter, drawn, entry.box, QRect(1, 1, ICON - 2, ICON - 2), ink, filled=entry.filled)
        painter.end()
        made = QIcon(picture)
        made.addPixmap(picture, QIcon.Mode.Selected)
        return made

    # what is chosen

    def choose(self, index: int) -> None:
        """Chooses the item at a place in the sheet's order, beside what is chosen."""
        self._select({index})

    def _select(self, places: Collection[int]) -> None:
        rows = self._model.rows(places) if places else []
        if rows:
            chosen, last = QItemSelection(), len(COLUMN) - 1
            firsts = [row for place, row in enumerate(rows) if place == 0 or rows[place - 1] != row - 1]
            lasts = [row for place, row in enumerate(rows) if place == len(rows) - 1 or rows[place + 1] != row + 1]
            for top, bottom in zip(firsts, lasts, strict=True):
                chosen.select(self._model.index(top, 0), self._model.index(bottom, last))
            self.table.selectionModel().select(chosen, QItemSelectionModel.SelectionFlag.Select)

    def chosen(self) -> list[Entry]:
        """In the sheet's order."""
        if self._chosen is not None:
            return self._chosen
        ranges = list(self.table.selectionModel().selection())  # type: ignore[call-overload]  # stubs forget __iter__
        rows = {row for each in ranges for row in range(each.top(), each.bottom() + 1)}
        self._chosen = [self.entries[place] for place in sorted(self._model.places(rows))]
        return self._chosen

    def choose_all(self) -> None:
        """Everything that is neither hidden nor locked."""
        self.pick_all([entry.id for entry in self.entries])

    def choose_none(self) -> None:
        """Nothing."""
        self.table.clearSelection()

    def pickable(self, items: Iterable[str]) -> list[str]:
        """Those that are neither hidden nor locked."""
        there = {entry.id for entry in self.entries}
        return [item for item in items if item in there and item not in self.locked and item not in self.hidden]

    def pick(self, items: Iterable[str], *, more: bool) -> None:
        """Chooses the first of some items, or the next where that is chosen already; with `more` beside what is
        chosen.
        """
        by_id = {entry.id: place for place, entry in reversed(list(enumerate(self.entries)))}
        places = [by_id[item] for item in self.pickable(items)]
        now = {entry.id for entry in self.chosen()}
        self._quiet = True
        if not more:
            self.table.clearSelection()
        if places:
            place = next((place for place in places if self.entries[place].id not in now), places[0])
            self.choose(place)
            for row in self._model.rows({place}):
                self.table.scrollTo(self._model.index(row, 0))
        self._quiet = False
        self.changed.emit()

    def pick_all(self, items: Iterable[str]) -> None:
        """Chooses all of some items that are neither hidden nor locked, and no others."""
        wanted = set(items) - self.locked - self.hidden
        self._quiet = True
        self.table.clearSelection()
        self._select({place for place, entry in enumerate(self.entries) if entry.id in wanted})
        self._quiet = False
        self.changed.emit()

    # clicks

    def _these(self, row: int) -> list[str]:
        """The items of a row: all that are chosen where it is one of them."""
        entry, chosen = self._model.entry(row), self.chosen()
        return [each.id for each in chosen] if entry in chosen else [entry.id]

    def _clicked(self, index: QModelIndex) -> None:
        ids = set(self._these(index.row()))
        entry = self._model.entry(index.row())
        if index.column() == COLUMN.EYE:
            self._mark(self.hidden, self.hidden - ids if entry.id in self.hidden else self.hidden | ids)
        elif index.column() == COLUMN.LOCK:
            self._mark(self.locked, self.locked - ids if entry.id in self.locked else self.locked | ids)
        elif index.column() == COLUMN.COLOUR:
            below = self.table.visualRect(index).bottomLeft()
            self.colour_asked.emit(sorted(ids), self.table.viewport().mapToGlobal(below))

    def _double_clicked(self, index: QModelIndex) -> None:
        if index.column() != COLUMN.ITEM:
            return
        entry = self._model.entry(index.row())
        if entry.live:
            self.edit_asked.emit(entry.id)
        else:
            self.table.edit(index)

    def _drop(self, row: int) -> None:
        """The chosen rows go above a row; beneath it on the sheet is what they then lie over."""
        ids = [entry.id for entry in self.chosen()]
        below = next(
            (each.id for each in map(self._model.entry, range(row, self._model.rowCount())) if each.id not in ids), ""
        )
        self.moved.emit(ids, below, "" if below else "back")

    # hidden and locked: how one looks at the sheet, not what is on it

    def isolate(self) -> None:
        """Hides all but what is chosen; shows everything where it is so already."""
        chosen = {entry.id for entry in self.chosen()}
        others = {entry.id for entry in self.entries} - chosen
        self._mark(self.hidden, set() if not chosen or self.hidden == others else others)

    def _menu(self, at: QPoint) -> None:
        ids = {entry.id for entry in self.chosen()}
        menu = QMenu(self)
        for words, kept, more in (
            (tr("Hide on the table"), self.hidden, ids),
            (tr("Lock against picking"), self.locked, ids),
        ):
            action = menu.addAction(words)
            action.setEnabled(bool(more - kept))
            action.triggered.connect(lambda _=False, kept=kept, more=more: self._mark(kept, kept | more))
        action = menu.addAction(tr("Show these alone"))
        action.setEnabled(bool(ids))
        action.triggered.connect(lambda _=False: self.isolate())
        menu.addSeparator()
        for words, kept in ((tr("Show all"), self.hidden), (tr("Unlock all"), self.locked)):
            action = menu.addAction(words)
            action.setEnabled(bool(kept))
            action.triggered.connect(lambda _=False, kept=kept: self._mark(kept, set()))
        menu.popup(self.table.viewport().mapToGlobal(at))

    def _mark(self, kept: set[str], after: set[str]) -> None:
        kept.clear()
        kept |= after
        self.show_entries(self.entries)
        self.shown.emit()
