"""The docket: what was found, under the six questions."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QAbstractListModel, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QPainter
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListView,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.bars import ProgressLine
from unkelt.desk.common.marks import draw_clear, level_colour, mark_path
from unkelt.desk.common.theme import PAD, RADIUS, Coloured, colour, font, px
from unkelt.desk.common.widgets import Index
from unkelt.language import said, tr
from unkelt.survey.finding import Finding, Level, Question

MANY = 6
"""From so many findings on they can be filtered."""


@dataclass(frozen=True)
class _Row:
    """A question's heading, or one finding under it."""

    question: Question
    count: int = 0
    worst: Level | None = None
    finding: Finding | None = None
    number: int = -1


class DocketModel(QAbstractListModel):
    """Rows for the list: questions with findings first, then those without."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[_Row] = []

    def show(self, findings: Sequence[Finding], wanted: Callable[[Finding], bool]) -> None:
        """Other findings."""
        self.beginResetModel()
        self.rows = []
        clear: list[_Row] = []
        for question in Question:
            numbered = [(number, f) for number, f in enumerate(findings) if f.question is question and wanted(f)]
            if not numbered and any(f.question is question for f in findings):
                continue  # there is something, but not of what is wanted
            if not numbered:
                clear.append(_Row(question))
                continue
            levels = [f.level for _, f in numbered]
            worst = next(level for level in Level if level in levels)
            self.rows.append(_Row(question, len(numbered), worst))
            self.rows += [_Row(question, finding=finding, number=number) for number, finding in numbered]
        self.rows += clear
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:  # noqa: ARG002
        return len(self.rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            if row.finding is None:
                return f"{row.question.value} {row.count or tr('nothing found')}"
            return f"{row.finding.level.value}: {row.finding.headline}"
        if role == Qt.ItemDataRole.ToolTipRole and row.finding:
            return row.finding.message
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        if self.rows[index.row()].finding is None:
            return Qt.ItemFlag.NoItemFlags
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable


def _row(index: Index) -> _Row:
    model = index.model()
    assert isinstance(model, DocketModel)
    return model.rows[index.row()]


class _Painter(Coloured, QStyledItemDelegate):
    def __init__(self) -> None:
        super().__init__()

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:  # noqa: ARG002
        row = _row(index)
        if row.finding:
            return QSize(200, px(50))
        return QSize(200, px(36 if row.count else 30))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        row = _row(index)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(option.rect)
        if row.finding:
            chosen = bool(option.state & QStyle.StateFlag.State_Selected)
            self._finding(painter, area, row.finding, chosen)
        else:
            self._question(painter, area, row)
        painter.restore()

    def _question(self, painter: QPainter, area: QRectF, row: _Row) -> None:
        middle = area.center().y()
        if row.worst is None:
            draw_clear(painter, QRectF(PAD, middle - 7, 14, 14), self.colours)
        else:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(level_colour(row.worst, self.colours)))
            painter.drawPath(mark_path(row.question, [(PAD + 7, middle)], 6))
        painter.setFont(font(10.5, 600 if row.count else 400))
        painter.setPen(colour(self.colours.text if row.count else self.colours.muted))
        words = area.adjusted(PAD + 24, 0, -PAD, 0)
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, said(row.question.value))
        if row.worst is not None:
            painter.setPen(colour(level_colour(row.worst, self.colours)))
            painter.drawText(words, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, str(row.count))

    def _finding(self, painter: QPainter, area: QRectF, finding: Finding, chosen: bool) -> None:
        if chosen:
            painter.setBrush(colour(self.colours.accent_soft))
            painter.setPen(colour(self.colours.accent))
            painter.drawRoundedRect(area.adjusted(8.5, 1.5, -8.5, -1.5), RADIUS, RADIUS)
        words = area.adjusted(PAD + 24, px(6), -PAD, -px(6))
        for text, face, value, top in (
            (said(finding.headline), font(10.5, 500), self.colours.text, 0),
            (said(finding.detail), font(9.5), self.colours.muted, 19),
        ):
            painter.setFont(face)
            painter.setPen(colour(value))
            short = QFontMetricsF(face).elidedText(text, Qt.TextElideMode.ElideRight, words.width())
            painter.drawText(words.topLeft() + QPointF(0, px(top + 14)), short)


class Docket(QWidget):
    """The list with its summary and "Mend what is safe"."""

    chosen = Signal(int)
    mend_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("docket")
        self.summary = QLabel("")
        self.summary.setProperty("role", "muted")
        self.summary.setFont(font(10))
        self.mend = QPushButton(tr("Mend what is safe"))
        self.mend.setFont(font(10, 600))
        self.mend.setToolTip(tr("Applies every safe repair that can be proven (Ctrl+M)"))
        self.mend.clicked.connect(self.mend_asked)
        self.progress = ProgressLine()
        self.progress.setAccessibleName(tr("Progress"))
        self.model = DocketModel()
        self.list = QListView()
        self.list.setModel(self.model)
        self.list.setItemDelegate(_Painter())
        self.list.setUniformItemSizes(False)
        self.list.setAccessibleName(tr("Findings"))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.selectionModel().currentChanged.connect(self._current_changed)
        self._findings: Sequence[Finding] = ()
        self.level = QComboBox()
        self.level.setFont(font(9.5))
        self.level.setAccessibleName(tr("Which findings"))
        for words, level in (
            (tr("all"), None),
            (tr("on hold"), Level.HOLD),
            (tr("warnings"), Level.WARN),
            (tr("notes"), Level.NOTE),
        ):
            self.level.addItem(words, level)
        self.level.currentIndexChanged.connect(self._filter)
        self.word = QLineEdit()
        self.word.setFont(font(9.5))
        self.word.setPlaceholderText(tr("filter by a word"))
        self.word.setAccessibleName(tr("Filter findings by a word"))
        self.word.setClearButtonEnabled(True)
        self.word.textChanged.connect(self._filter)
        self.filters = QWidget()
        row = QHBoxLayout(self.filters)
        row.setContentsMargins(PAD, 0, PAD, 8)
        row.addWidget(self.level)
        row.addWidget(self.word, 1)
        top = QHBoxLayout()
        top.setContentsMargins(PAD, 12, PAD, 8)
        top.addWidget(self.summary, 1)
        top.addWidget(self.mend)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(top)
        layout.addWidget(self.filters)
        layout.addWidget(self.progress)
        layout.addSpacing(6)
        layout.addWidget(self.list, 1)
        self.setMinimumWidth(250)

    def show_findings(self, findings: Sequence[Finding], summary: str) -> None:
        """All findings, by question."""
        self._findings = findings
        self._filter()
        self.summary.setText(said(summary))
        self.filters.setVisible(len(findings) >= MANY)

    def shown(self) -> list[int]:
        """The numbers of the findings that the filters leave, in the order of the list."""
        return [row.number for row in self.model.rows if row.finding]

    def _filter(self) -> None:
        level, word = self.level.currentData(), self.word.text().casefold().strip()
        many = len(self._findings) >= MANY
        self.model.show(
            self._findings,
            lambda finding: (
                not many or (level in (None, finding.level) and word in f"{finding.headline} {finding.code}".casefold())
            ),
        )

    def choose(self, number: int | None) -> None:
        """The finding with this number is marked."""
        row = next((at for at, row in enumerate(self.model.rows) if row.number == number and number is not None), None)
        if row is None:
            self.list.clearSelection()
        else:
            self.list.setCurrentIndex(self.model.index(row))

    def _current_changed(self, current: Index, previous: Index) -> None:  # noqa: ARG002
        if current.isValid() and self.model.rows[current.row()].number >= 0:
            self.chosen.emit(self.model.rows[current.row()].number)
