"""The ledger: the items of the sheet as a table with their pictures, sorted, filtered, hidden and locked."""

from __future__ import annotations

from collections.abc import Collection, Iterable

from PySide6.QtCore import (
    QAbstractTableModel,
    QItemSelection,
    QItemSelectionModel,
    QPoint,
    QRect,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QLineEdit, QMenu, QTableView, QVBoxLayout, QWidget

from unkelt.desk.common.drawing import painter_path
from unkelt.desk.common.specimens import draw_path
from unkelt.desk.common.theme import font, px
from unkelt.desk.common.widgets import Index
from unkelt.language import said, tr
from unkelt.session.entries import Entry

COLUMNS = (tr("item"), tr("is"), tr("does"), tr("W × H, mm"), tr("nodes"), tr("area, mm²"), tr("length, mm"))
NUMBERS_FROM = 3
ICON = 24
PICTURED_SEGMENTS = 4000
"""What has more goes without a picture: while one is drawn, the window can't answer."""


class _Model(QAbstractTableModel):
    """The entries in the order they are sorted in, those only that pass the filter. Asked for what is in view alone."""

    def __init__(self, ledger: Ledger) -> None:
        super().__init__(ledger)
        self._ledger = ledger
        self.entries: list[Entry] = []
        self.word = ""
        self._order: list[int] = []
        self._pictures: dict[int, QIcon] = {}
        self.by: tuple[int, Qt.SortOrder] = -1, Qt.SortOrder.AscendingOrder
        """The column they are sorted by, -1 for the sheet's order, and which way."""

    def show(self, entries: list[Entry], word: str) -> None:
        self.beginResetModel()
        if entries is not self.entries:
            self._pictures.clear()
        self.entries, self.word = entries, word
        self._arrange()
        self.endResetModel()

    def _arrange(self) -> None:
        passing = [
            place
            for place, entry in enumerate(self.entries)
            if not self.word or self.word in f"{entry.name} {entry.id} {entry.what} {entry.operation}".casefold()
        ]
        column, order = self.by
        if column >= 0:
            passing.sort(
                key=lambda place: _sorted_by(self.entries[place], column), reverse=order == Qt.SortOrder.DescendingOrder
            )
        self._order = passing

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
        return 0 if parent is not None and parent.isValid() else len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return COLUMNS[section]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(section)
        return None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        entry, column = self.entry(index.row()), index.column()
        if role == Qt.ItemDataRole.DisplayRole:
            return self._words(entry, column)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(column)
        if column == 0 and role == Qt.ItemDataRole.ToolTipRole:
            return entry.id
        if column == 0 and role == Qt.ItemDataRole.DecorationRole:
            return self._picture(index.row())
        return None

    def _words(self, entry: Entry, column: int) -> str:
        if column == 1 and (entry.id in self._ledger.hidden or entry.id in self._ledger.locked):
            note = tr("hidden") if entry.id in self._ledger.hidden else tr("locked")
            return f"{said(entry.what)} · {note}"
        return (
            entry.name,
            said(entry.what),
            said(entry.operation),
            said(entry.size),
            entry.nodes,
            _rounded(entry.area_mm2),
            _rounded(entry.length_mm),
        )[column]

    def forget_pictures(self) -> None:
        self._pictures.clear()

    def _picture(self, row: int) -> QIcon | None:
        place = self._order[row]
        entry = self.entries[place]
        if entry.path is None or entry.box is None or len(entry.path.points) > PICTURED_SEGMENTS:
            return None
        if place not in self._pictures:
            self._pictures[place] = self._ledger.picture(entry)
        return self._pictures[place]


def _alignment(column: int) -> Qt.AlignmentFlag:
    side = Qt.AlignmentFlag.AlignRight if column >= NUMBERS_FROM else Qt.AlignmentFlag.AlignLeft
    return side | Qt.AlignmentFlag.AlignVCenter


def _rounded(value: float | None) -> str:
    return "–" if value is None else f"{value:.0f}"


def _sorted_by(entry: Entry, column: int) -> tuple[float, str]:
    """Figures by their value, those that there are none of first; words by the alphabet."""
    if column < NUMBERS_FROM:
        return 0.0, (entry.name, entry.what, entry.operation)[column].casefold()
    return {
        3: entry.box[2] - entry.box[0] if entry.box else -1.0,
        4: float(entry.nodes) if entry.nodes.isdigit() else -1.0,
        5: -1.0 if entry.area_mm2 is None else entry.area_mm2,
        6: entry.length_mm or -1.0,
    }[column], ""


class Ledger(QWidget):
    """`changed` when other items are chosen, `shown` when some are hidden or come back."""

    changed = Signal()
    shown = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.hidden: set[str] = set()
        self.locked: set[str] = set()
        self.filter = QLineEdit()
        self.filter.setPlaceholderText(tr("filter by name, kind or operation"))
        self.filter.setFont(font(9.5))
        self.filter.setAccessibleName(tr("Filter the ledger"))
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(self._filter)
        self.table = QTableView()
        self._model = _Model(self)
        self.table.setModel(self._model)
        self.table.setFont(font(9.5))
        header = self.table.horizontalHeader()
        header.setFont(font(9.5))
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setResizeContentsPrecision(40)
        header.setHighlightSections(False)
        header.setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        header.setToolTip(tr("Click a heading to sort. Drag the table's edge for more columns"))
        header.setSectionsClickable(True)
        # Until something is sorted by: the room for its arrow would take a column away.
        header.setSortIndicatorShown(False)
        header.sortIndicatorChanged.connect(self._sort)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.table.verticalHeader().setDefaultSectionSize(px(34))
        self.table.setIconSize(QSize(ICON, ICON))
        self.table.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.table.setShowGrid(False)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setAccessibleName(tr("Ledger"))
        self.table.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.table.customContextMenuRequested.connect(self._menu)
        self.table.selectionModel().selectionChanged.connect(self._chosen_changed)
        self._quiet = False
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        top = QWidget()
        held = QVBoxLayout(top)
        held.setContentsMargins(12, 8, 12, 8)
        held.addWidget(self.filter)
        layout.addWidget(top)
        layout.addWidget(self.table, 1)
        self.setMinimumWidth(260)

    @property
    def entries(self) -> list[Entry]:
        """All that is listed."""
        return self._model.entries

    # what is shown

    def show_entries(self, entries: list[Entry]) -> None:
        """The items of a sheet; those that were chosen and are still there stay chosen."""
        self._quiet = True
        self._show(entries)
        if len(entries) == 1 and not self.chosen():
            self.choose(0)
        self.filter.setVisible(len(entries) > 5)
        self._quiet = False

    def _show(self, entries: list[Entry]) -> None:
        kept = {entry.id for entry in self.chosen()}
        self._model.show(entries, self.filter.text().casefold().strip())
        self._select({place for place, entry in enumerate(entries) if entry.id in kept} if kept else set())

    def _filter(self) -> None:
        """What doesn't pass is no longer chosen: a step works on what is to be seen."""
        before = self.chosen()
        self._quiet = True
        self._show(self.entries)
        self._quiet = False
        if self.chosen() != before:
            self.changed.emit()

    def _sort(self, column: int, order: Qt.SortOrder) -> None:
        self._model.by = column, order
        self.table.horizontalHeader().setSortIndicatorShown(column >= 0)
        self._quiet = True
        self._show(self.entries)
        self._quiet = False

    def _chosen_changed(self) -> None:
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
        icon = QIcon(picture)
        icon.addPixmap(picture, QIcon.Mode.Selected)
        return icon

    # what is chosen

    def choose(self, index: int) -> None:
        """Chooses the item at a place in the sheet's order, beside what is chosen."""
        self._select({index})

    def _select(self, places: Collection[int]) -> None:
        rows = self._model.rows(places) if places else []
        if rows:
            chosen, last = QItemSelection(), len(COLUMNS) - 1
            for row in rows:
                chosen.select(self._model.index(row, 0), self._model.index(row, last))
            self.table.selectionModel().select(chosen, QItemSelectionModel.SelectionFlag.Select)

    def chosen(self) -> list[Entry]:
        """In the sheet's order, whatever the table is sorted by."""
        rows = (index.row() for index in self.table.selectionModel().selectedRows())
        return [self.entries[place] for place in sorted(self._model.places(rows))]

    def pick(self, items: Iterable[str], *, more: bool) -> None:
        """Chooses the first of some items, or the next where that is chosen already; with `more` beside what is
        chosen.
        """
        by_id = {entry.id: place for place, entry in reversed(list(enumerate(self.entries)))}
        places = [
            by_id[item] for item in items if item in by_id and item not in self.locked and item not in self.hidden
        ]
        now = {entry.id for entry in self.chosen()}
        if not more:
            self.table.clearSelection()
        if places:
            place = next((place for place in places if self.entries[place].id not in now), places[0])
            self.choose(place)
            for row in self._model.rows({place}):
                self.table.scrollTo(self._model.index(row, 0))

    def pick_all(self, items: Iterable[str]) -> None:
        """Chooses all of some items that are neither hidden nor locked, and no others."""
        wanted = set(items) - self.locked - self.hidden
        self.table.clearSelection()
        self._select({place for place, entry in enumerate(self.entries) if entry.id in wanted})

    # hidden and locked: how one looks at the sheet, not what is on it

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
