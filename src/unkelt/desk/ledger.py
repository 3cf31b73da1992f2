"""The ledger: the items of the sheet as a table with their pictures, sorted, filtered, hidden and locked."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QItemSelectionModel, QPoint, QRect, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QLineEdit,
    QMenu,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.drawing import painter_path
from unkelt.desk.pictures import draw_path
from unkelt.desk.theme import font, px
from unkelt.language import said, tr
from unkelt.session.ledger import Entry

COLUMNS = ("item", "is", "does", tr("W × H, mm"), "nodes", tr("area, mm²"), tr("length, mm"))
NUMBERS_FROM = 3
ICON = 24
PICTURED = 400
"""Longer ledgers go without pictures: they would take seconds to draw."""


class Ledger(QWidget):
    """`changed` when other items are chosen, `shown` when some are hidden or come back."""

    changed = Signal()
    shown = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.entries: list[Entry] = []
        self.hidden: set[str] = set()
        self.locked: set[str] = set()
        self.filter = QLineEdit()
        self.filter.setPlaceholderText(tr("filter by name, kind or operation"))
        self.filter.setFont(font(9.5))
        self.filter.setAccessibleName(tr("Filter the ledger"))
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(self._filter)
        self.table = QTableWidget(0, len(COLUMNS))
        self.table.setHorizontalHeaderLabels(list(COLUMNS))
        self.table.setFont(font(9.5))
        header = self.table.horizontalHeader()
        header.setFont(font(9.5))
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setHighlightSections(False)
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        header.setToolTip(tr("Sorts by what is clicked; drag the table's edge for more columns"))
        for column in range(NUMBERS_FROM, len(COLUMNS)):
            heading = self.table.horizontalHeaderItem(column)
            assert heading is not None
            heading.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.table.verticalHeader().hide()
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
        self.table.itemSelectionChanged.connect(self.changed)
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

    # what is shown

    def show_entries(self, entries: list[Entry]) -> None:
        """The items of a sheet; those that were chosen and are still there stay chosen."""
        kept = {entry.id for entry in self.chosen()}
        self.entries = entries
        self.table.blockSignals(True)
        self.table.setSortingEnabled(False)
        self.table.setRowCount(len(entries))
        for row, entry in enumerate(entries):
            for column, cell in enumerate(self._cells(entry, row, pictured=len(entries) <= PICTURED)):
                self.table.setItem(row, column, cell)
        self.table.setSortingEnabled(True)
        self.table.clearSelection()
        chosen = [index for index, entry in enumerate(entries) if entry.id in kept]
        for index in chosen or ([0] if len(entries) == 1 else []):
            self.choose(index)
        self.filter.setVisible(len(entries) > 5)
        self._filter()
        self.table.blockSignals(False)

    def _cells(self, entry: Entry, index: int, *, pictured: bool) -> list[QTableWidgetItem]:
        area = None if entry.area_mm2 is None else entry.area_mm2
        words: list[tuple[str, float | None]] = [
            (entry.name, None),
            (said(entry.what), None),
            (said(entry.operation), None),
            (said(entry.size), (entry.box[2] - entry.box[0]) if entry.box else -1.0),
            (entry.nodes, float(entry.nodes) if entry.nodes.isdigit() else -1.0),
            (f"{area:.0f}" if area is not None else "–", area if area is not None else -1.0),
            (f"{entry.length_mm:.0f}" if entry.length_mm is not None else "–", entry.length_mm or -1.0),
        ]
        cells: list[QTableWidgetItem] = []
        for column, (text, number) in enumerate(words):
            cell = _Cell(text, number)
            if column >= NUMBERS_FROM:
                cell.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            cells.append(cell)
        cells[0].setData(Qt.ItemDataRole.UserRole, index)
        cells[0].setToolTip(entry.id)
        if pictured and entry.path is not None and entry.box is not None:
            cells[0].setIcon(self._picture(entry))
        if entry.id in self.hidden or entry.id in self.locked:
            note = tr("hidden") if entry.id in self.hidden else tr("locked")
            cells[1].setText(f"{said(entry.what)} · {note}")
        return cells

    def _picture(self, entry: Entry) -> QIcon:
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

    def _row_of(self, index: int) -> int:
        for row in range(self.table.rowCount()):
            cell = self.table.item(row, 0)
            if cell is not None and cell.data(Qt.ItemDataRole.UserRole) == index:
                return row
        return -1

    def choose(self, index: int) -> None:
        """Chooses the item at a place in the sheet's order, beside what is chosen."""
        place = self.table.model().index(self._row_of(index), 0)
        flags = QItemSelectionModel.SelectionFlag
        self.table.selectionModel().select(place, flags.Select | flags.Rows)

    def chosen(self) -> list[Entry]:
        """In the sheet's order, whatever the table is sorted by."""
        rows = {index.row() for index in self.table.selectedIndexes()}
        cells = [cell for row in rows if (cell := self.table.item(row, 0)) is not None]
        places = sorted(int(cell.data(Qt.ItemDataRole.UserRole)) for cell in cells)
        return [self.entries[place] for place in places if place < len(self.entries)]

    def pick(self, items: Iterable[str], *, more: bool) -> None:
        """Chooses the first of some items, or the next where that is chosen already; with `more` beside what is chosen."""
        places = [
            place
            for item in items
            for place, entry in enumerate(self.entries)
            if entry.id == item and item not in self.locked and item not in self.hidden
        ]
        now = {entry.id for entry in self.chosen()}
        if not more:
            self.table.clearSelection()
        if places:
            place = next((place for place in places if self.entries[place].id not in now), places[0])
            self.choose(place)
            self.table.scrollTo(self.table.model().index(self._row_of(place), 0))

    def pick_all(self, items: Iterable[str]) -> None:
        """Chooses all of some items that are neither hidden nor locked, and no others."""
        wanted = set(items) - self.locked - self.hidden
        self.table.clearSelection()
        for place, entry in enumerate(self.entries):
            if entry.id in wanted:
                self.choose(place)

    def _filter(self) -> None:
        word = self.filter.text().casefold().strip()
        for row in range(self.table.rowCount()):
            cell = self.table.item(row, 0)
            if cell is not None:
                entry = self.entries[cell.data(Qt.ItemDataRole.UserRole)]
                said = f"{entry.name} {entry.id} {entry.what} {entry.operation}".casefold()
                self.table.setRowHidden(row, bool(word) and word not in said)

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


class _Cell(QTableWidgetItem):
    """Sorts by its number, where it has one."""

    def __init__(self, text: str, number: float | None) -> None:
        super().__init__(text)
        self.number = number

    def __lt__(self, other: QTableWidgetItem) -> bool:
        if isinstance(other, _Cell) and self.number is not None and other.number is not None:
            return self.number < other.number
        return self.text().casefold() < other.text().casefold()
