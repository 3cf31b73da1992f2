"""The figures of everything on the sheet, as a table that can be sorted: opened when wanted."""

from __future__ import annotations

from PySide6.QtCore import QAbstractTableModel, QItemSelection, QItemSelectionModel, QModelIndex, Qt, Signal
from PySide6.QtWidgets import QAbstractItemView, QDialog, QHeaderView, QTableView, QVBoxLayout, QWidget

from unkelt.desk.common.theme import font, px
from unkelt.desk.common.widgets import Index
from unkelt.language import said, tr
from unkelt.session.entries import Entry
from unkelt.session.reading import MM, Unit

NUMBERS_FROM = 3


def _headings(unit: Unit) -> tuple[str, ...]:
    name = unit.name
    return (
        tr("item"),
        tr("is"),
        tr("does"),
        tr("W × H, {unit}").format(unit=name),
        tr("nodes"),
        tr("area, {unit}²").format(unit=name),
        tr("length, {unit}").format(unit=name),
    )


class _Model(QAbstractTableModel):
    """Asked for what is in view alone."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._entries: list[Entry] = []
        self._unit = MM
        self._by = -1, Qt.SortOrder.AscendingOrder

    def show(self, entries: list[Entry], unit: Unit) -> None:
        self.beginResetModel()
        self._entries, self._unit = list(entries), unit
        self.endResetModel()
        if self._by[0] >= 0:
            self.sort(*self._by)

    def entry(self, row: int) -> Entry:
        return self._entries[row]

    def rows(self, ids: set[str]) -> list[int]:
        return [row for row, entry in enumerate(self._entries) if entry.id in ids]

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        self._by = column, order
        if column >= 0:
            self.beginResetModel()
            reverse = order == Qt.SortOrder.DescendingOrder
            self._entries.sort(key=lambda entry: _sorted_by(entry, column), reverse=reverse)
            self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self._entries)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(_headings(MM))

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return _headings(self._unit)[section]
        return _alignment(section) if role == Qt.ItemDataRole.TextAlignmentRole else None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.DisplayRole:
            return self._words(self._entries[index.row()], index.column())
        return _alignment(index.column()) if role == Qt.ItemDataRole.TextAlignmentRole else None

    def _words(self, entry: Entry, column: int) -> str:
        unit, box = self._unit, entry.box
        return (
            entry.name,
            said(entry.what),
            said(entry.operation),
            f"{unit.say(box[2] - box[0], bare=True)} × {unit.say(box[3] - box[1], bare=True)}" if box else "–",
            entry.nodes,
            "–" if entry.area_mm2 is None else unit.say_area(entry.area_mm2),
            "–" if entry.length_mm is None else unit.say(entry.length_mm, bare=True),
        )[column]


def _alignment(column: int) -> Qt.AlignmentFlag:
    side = Qt.AlignmentFlag.AlignRight if column >= NUMBERS_FROM else Qt.AlignmentFlag.AlignLeft
    return side | Qt.AlignmentFlag.AlignVCenter


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


class Figures(QDialog):
    """A window beside the bench; `chosen` with the ids of the rows that are."""

    chosen = Signal(list)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Figures"))
        self.table = QTableView()
        self.table.setFont(font(9.5))
        self.table.setAccessibleName(tr("Figures"))
        self._model = _Model(self.table)
        self.table.setModel(self._model)
        self.table.setSortingEnabled(True)
        header = self.table.horizontalHeader()
        header.setFont(font(9.5))
        header.setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setResizeContentsPrecision(40)
        header.setHighlightSections(False)
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self._quiet = False
        self.table.selectionModel().selectionChanged.connect(self._changed)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.table)
        self.resize(px(640), px(320))

    def show_entries(self, entries: list[Entry], chosen: set[str], unit: Unit) -> None:
        """The items of a sheet, and which of them are chosen."""
        self._quiet = True
        self._model.show(entries, unit)
        self.table.clearSelection()
        rows, last = QItemSelection(), self._model.columnCount() - 1
        for row in self._model.rows(chosen):
            rows.select(self._model.index(row, 0), self._model.index(row, last))
        self.table.selectionModel().select(rows, QItemSelectionModel.SelectionFlag.Select)
        self._quiet = False

    def _changed(self) -> None:
        if not self._quiet:
            rows = (index.row() for index in self.table.selectionModel().selectedRows())
            self.chosen.emit([self._model.entry(row).id for row in rows])
