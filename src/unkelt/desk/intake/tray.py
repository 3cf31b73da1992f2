"""The tray: every job on the desk with a small picture, what it is called and its six lamps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QAbstractListModel, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QImage, QPainter
from PySide6.QtWidgets import (
    QHBoxLayout,
    QListView,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.marks import draw_clear, level_colour, mark_path
from unkelt.desk.common.theme import LIGHT, PAD, RADIUS, Coloured, colour, font, px
from unkelt.desk.common.widgets import Index, label, named
from unkelt.language import tr, tr_count
from unkelt.survey.finding import Finding, Level, Question

PICTURE = QSize(76, 56)


@dataclass(frozen=True)
class Entry:
    """One job; `findings` and `picture` are None until they are known."""

    title: str
    name: str
    findings: Sequence[Finding] | None
    picture: QImage | None

    @property
    def words(self) -> str:
        """What is read out of it."""
        if self.findings is None:
            return tr("{title}, {name}, not looked over yet").format(title=self.title, name=self.name)
        worst = [f"{q.short}: {sum(f.question is q for f in self.findings)}" for q in Question if self._of(q)]
        return f"{self.title}, {self.name}, {', '.join(worst) or tr('nothing found')}"

    def _of(self, question: Question) -> list[Finding]:
        return [finding for finding in self.findings or () if finding.question is question]

    def worst(self, question: Question) -> Level | None:
        """The worst level among its findings of a question, None where there are none."""
        levels = [finding.level for finding in self._of(question)]
        return next((level for level in Level if level in levels), None)


class _Model(QAbstractListModel):
    def __init__(self) -> None:
        super().__init__()
        self.entries: list[Entry] = []

    def show(self, entries: list[Entry]) -> None:
        if len(entries) == len(self.entries):
            self.entries = entries
            self.dataChanged.emit(self.index(0), self.index(len(entries) - 1))
        else:
            self.beginResetModel()
            self.entries = entries
            self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:  # noqa: ARG002
        return len(self.entries)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        entry = self.entries[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole, Qt.ItemDataRole.ToolTipRole):
            return entry.words
        return None


class _Painter(Coloured, QStyledItemDelegate):
    def __init__(self, model: _Model) -> None:
        super().__init__()
        self.model = model

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:  # noqa: ARG002
        return QSize(200, px(PICTURE.height() + 18))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        entry, p = self.model.entries[index.row()], self.colours
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        area = QRectF(option.rect).adjusted(8.5, 2.5, -8.5, -2.5)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setBrush(colour(p.accent_soft))
            painter.setPen(colour(p.accent))
            painter.drawRoundedRect(area, RADIUS, RADIUS)
        picture = QRectF(
            area.left() + 7, area.top() + (area.height() - PICTURE.height()) / 2, PICTURE.width(), PICTURE.height()
        )
        painter.setPen(colour(p.line))
        painter.setBrush(colour(LIGHT.page))  # its own colours are for light paper
        painter.drawRoundedRect(picture, 3, 3)
        if entry.picture is not None:
            painter.drawImage(picture.adjusted(1, 1, -1, -1), entry.picture)
        words = QRectF(picture.right() + 12, area.top() + 7, area.right() - picture.right() - 20, area.height() - 14)
        for text, face, value, line in (
            (entry.title, font(10.5, 600), p.text, px(13)),
            (entry.name if entry.name != entry.title else "", font(9), p.muted, px(29)),
        ):
            painter.setFont(face)
            painter.setPen(colour(value))
            short = QFontMetricsF(face).elidedText(text, Qt.TextElideMode.ElideMiddle, words.width())
            painter.drawText(words.topLeft() + QPointF(0, line), short)
        for number, question in enumerate(Question):
            self._lamp(painter, entry, question, words.left() + 6 + 19 * number, words.bottom() - 7)
        painter.restore()

    def _lamp(self, painter: QPainter, entry: Entry, question: Question, x: float, y: float) -> None:
        worst = entry.worst(question)
        if worst is not None:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(level_colour(worst, self.colours)))
            painter.drawPath(mark_path(question, [(x, y)], 5))
        elif entry.findings is not None:
            painter.setPen(Qt.PenStyle.SolidLine)
            draw_clear(painter, QRectF(x - 5.5, y - 5.5, 11, 11), self.colours)
        else:
            painter.setPen(colour(self.colours.muted))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(x, y), 5, 5)


class Tray(QWidget):
    """`chosen` with the place of a job that is to come to the front."""

    chosen = Signal(int)
    watch_asked = Signal()
    folder_asked = Signal()
    mend_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        named(self, "docket").setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(px(296))
        self.count = label("", 10, role="muted")
        self.model = _Model()
        self.list = QListView()
        self.list.setModel(self.model)
        self._painter = _Painter(self.model)
        self.list.setItemDelegate(self._painter)
        self.list.setAccessibleName(tr("Jobs on the desk"))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.selectionModel().currentChanged.connect(lambda now, _: self.chosen.emit(now.row()))
        self.folder = QPushButton(tr("Open a folder…"))
        self.folder.clicked.connect(self.folder_asked)
        self.watch = QPushButton(tr("Watch a folder…"))
        self.watch.clicked.connect(self.watch_asked)
        self.mend = QPushButton(tr("Mend what is safe in all"))
        self.mend.clicked.connect(self.mend_asked)
        self.watching = label("", 9.5, role="muted", wrap=True)
        self.watching.hide()
        buttons = QHBoxLayout()
        buttons.setSpacing(8)
        buttons.addWidget(self.folder, 1)
        buttons.addWidget(self.watch, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 12, 0, 12)
        layout.setSpacing(6)
        head = QVBoxLayout()
        head.setContentsMargins(PAD, 0, PAD, 0)
        head.addWidget(self.count)
        layout.addLayout(head)
        layout.addWidget(self.list, 1)
        foot = QVBoxLayout()
        foot.setContentsMargins(PAD, 4, PAD, 0)
        foot.setSpacing(8)
        foot.addWidget(self.watching)
        foot.addWidget(self.mend)
        foot.addLayout(buttons)
        layout.addLayout(foot)

    def show_jobs(self, entries: list[Entry], front: int) -> None:
        """These jobs, and which is worked on."""
        self.model.show(entries)
        looked = sum(entry.findings is not None for entry in entries)
        jobs = tr_count("{count} job on the desk", "{count} jobs on the desk", len(entries))
        self.count.setText(
            jobs if looked == len(entries) else tr("{jobs} · {looked} looked over").format(jobs=jobs, looked=looked)
        )
        self.mend.setVisible(len(entries) > 1)
        selection = self.list.selectionModel()
        blocked = selection.blockSignals(True)
        self.list.setCurrentIndex(self.model.index(front))
        selection.blockSignals(blocked)
        self.list.scrollTo(self.model.index(front))
        self.list.viewport().update()

    def show_watched(self, folder: str) -> None:
        """Which folder is watched, if any."""
        self.watching.setText(tr("Watching {folder}").format(folder=folder) if folder else "")
        self.watching.setVisible(bool(folder))
        self.watch.setText(tr("Stop watching") if folder else tr("Watch a folder…"))
