"""The bars above and below: the job and its verdict, the six lamps, the recipe strip, a message."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QHelpEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.marks import draw_clear, level_colour, mark_path
from unkelt.desk.common.theme import PAD, RADIUS, Coloured, colour, font, px
from unkelt.desk.common.widgets import label
from unkelt.desk.common.worker import after_this_turn
from unkelt.language import said, tr
from unkelt.session.sentences import Verdict
from unkelt.survey.finding import Finding, Level, Question


class VerdictPill(Coloured, QWidget):
    """The verdict: amber with a square for hold, plain for open, green with a tick for clean."""

    def __init__(self) -> None:
        super().__init__()
        self.verdict = Verdict("open", "")
        self.setFixedHeight(px(32))
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    def show_verdict(self, verdict: Verdict) -> None:
        """The verdict on the job, in its colour."""
        self.verdict = verdict
        self.setAccessibleName(tr("Verdict: {words}").format(words=verdict.words))
        self.setVisible(bool(verdict.words))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        words = QFontMetrics(font(10.5, 600)).horizontalAdvance(said(self.verdict.words))
        return QSize(words + (54 if self.verdict.state != "open" else 38), px(32))

    def paintEvent(self, event: QPaintEvent) -> None:  # noqa: ARG002
        p = self.colours
        line, back = {"hold": (p.hold, p.hold_soft), "clean": (p.accent, p.accent_soft)}.get(
            self.verdict.state, (p.muted, p.panel)
        )
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.75, 0.75, -0.75, -0.75)
        painter.setPen(colour(line))
        painter.setBrush(colour(back))
        painter.drawRoundedRect(box, box.height() / 2, box.height() / 2)
        if self.verdict.state == "clean":
            draw_clear(painter, QRectF(14, box.center().y() - 7, 14, 14), p)
        elif self.verdict.state == "hold":
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(line))
            painter.drawRect(QRectF(16, box.center().y() - 5, 10, 10))
        painter.setPen(colour(p.text if self.verdict.state == "open" else line))
        painter.setFont(font(10.5, 600))
        left = 36 if self.verdict.state != "open" else 18
        painter.drawText(box.adjusted(left, 0, -14, 0), Qt.AlignmentFlag.AlignVCenter, said(self.verdict.words))


WORDED, WORDLESS = 560, 250
"""The width of the lamps with their words, and without."""


class Lamps(Coloured, QWidget):
    """Six lamps, one a question; a click goes to its first finding."""

    question_chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.findings: Sequence[Finding] | None = None
        self.setFixedHeight(px(30))
        self._places: list[tuple[QRectF, Question]] = []
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(tr("Six questions"))
        self.setMouseTracking(True)

    def show_findings(self, findings: Sequence[Finding] | None) -> None:
        """How many findings there are of each question."""
        self.findings = findings
        counted = [f"{said(q.short)}: {self._count(q)}" for q in Question]
        self.setAccessibleDescription(", ".join(counted))
        self.updateGeometry()
        self.update()

    def _count(self, question: Question) -> int:
        return sum(f.question is question for f in self.findings or ())

    def sizeHint(self) -> QSize:
        return QSize(px(WORDED), px(30))

    def minimumSizeHint(self) -> QSize:
        return QSize(WORDLESS, px(30))

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            over = next((question for box, question in self._places if box.contains(QPointF(event.pos()))), None)
            QToolTip.showText(
                event.globalPos(), f"{said(over.value)} {self._count(over) or tr('nothing')}" if over else "", self
            )
            return True
        return super().event(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for box, question in self._places:
            if box.contains(event.position()):
                self.question_chosen.emit(question.value)

    def paintEvent(self, event: QPaintEvent) -> None:  # noqa: ARG002
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._places = []
        x, middle = 8.0, self.height() / 2
        for question in Question:
            found = [f for f in self.findings or () if f.question is question]
            if self.findings is None:
                painter.setPen(colour(self.colours.muted))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(QPointF(x + 7, middle), 6, 6)
                ink = self.colours.muted
            elif not found:
                draw_clear(painter, QRectF(x, middle - 7, 14, 14), self.colours)
                ink = self.colours.muted
            else:
                worst = next(level for level in Level if any(f.level is level for f in found))
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(colour(level_colour(worst, self.colours)))
                painter.drawPath(mark_path(question, [(x + 7, middle)], 6))
                ink = self.colours.text
            painter.setPen(colour(ink))
            painter.setFont(font(9.5))
            short = (
                said(question.short) if self.width() >= px(WORDED) - 10 else ""
            )  # where there is no room, the shapes tell
            width = painter.fontMetrics().horizontalAdvance(short)
            painter.drawText(QRectF(x + 18, 0, width + 4, self.height()), Qt.AlignmentFlag.AlignVCenter, short)
            start, x = x, x + 18 + width
            if found:
                painter.setPen(colour(level_colour(worst, self.colours)))
                painter.setFont(font(9.5, 600))
                painter.drawText(
                    QRectF(x + 6, 0, px(24), self.height()), Qt.AlignmentFlag.AlignVCenter, str(len(found))
                )
                x += 6 + painter.fontMetrics().horizontalAdvance(str(len(found)))
            self._places.append((QRectF(start - 4, 0, x - start + 8, self.height()), question))
            x += 12


class ProgressLine(Coloured, QWidget):
    """How far long work is, as a thin line. (Qt's own bar paints at once whatever waits to be painted in all the
    window.)
    """

    def __init__(self) -> None:
        super().__init__()
        self.share = 0.0
        self.setFixedHeight(3)

    def show_share(self, share: float) -> None:
        """How much is done, of 1."""
        self.share = share
        self.setAccessibleDescription(f"{share:.0%}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:  # noqa: ARG002
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour(self.colours.line))
        painter.fillRect(QRectF(0, 0, self.width() * self.share, self.height()), colour(self.colours.accent))


LATER = 0.55
"""How much of a later state's card is seen."""


class Card(Coloured, QPushButton):
    """One state on the recipe strip: the `current` one is on the table, a `later` one isn't yet."""

    def __init__(
        self,
        name: str,
        caption: str,
        *,
        current: bool,
        dashed: bool = False,
        later: bool = False,
        stale: str = "",
    ) -> None:
        super().__init__()
        self.name, self.caption, self.stale = said(name), said(caption), said(stale)
        self.current, self.dashed, self.later = current, dashed, later
        self.setFixedHeight(px(46))
        self.setAccessibleName(f"{self.name}: {self.caption}")
        tip = f"{self.name}: {self.stale or self.caption}"
        self.setToolTip(tip if not dashed else tr("What the step shown on the right would add"))
        self.setCursor(Qt.CursorShape.PointingHandCursor if not dashed else Qt.CursorShape.ArrowCursor)
        self.setEnabled(not dashed)
        widest = px(max(len(self.name) * 7.6, len(self.caption) * 5.9))
        self.setFixedWidth(int(min(px(208), max(px(96), widest + 26))))

    def paintEvent(self, event: QPaintEvent) -> None:  # noqa: ARG002
        p = self.colours
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.75, 0.75, -0.75, -0.75)
        pen = painter.pen()
        pen.setColor(colour(p.accent if self.current or self.hasFocus() else p.page_edge))
        pen.setWidthF(2 if self.hasFocus() else 1)
        if self.dashed or self.stale:
            pen.setStyle(Qt.PenStyle.DashLine)
        if self.stale:
            pen.setColor(colour(p.hold))
        painter.setPen(pen)
        painter.setBrush(colour(p.accent_soft if self.current else p.panel))
        painter.setOpacity(LATER if self.later else 1.0)
        painter.drawRoundedRect(box, RADIUS, RADIUS)
        for text, face, value, area in (
            (
                self.name,
                font(10, 600 if not self.dashed else 400),
                p.text if not (self.dashed or self.stale) else p.muted,
                box.adjusted(12, px(5), -8, -px(21)),
            ),
            (self.caption, font(9), p.hold if self.stale else p.muted, box.adjusted(12, px(22), -8, -px(4))),
        ):
            painter.setFont(face)
            painter.setPen(colour(value))
            short = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(area.width()))
            painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, short)


class RecipeStrip(QWidget):
    """The steps in order; a click looks back at the sheet as it was after that step."""

    stage_chosen = Signal(int)
    menu_asked = Signal(int, QPoint)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("strip")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(px(70))
        self._row = QWidget()
        self._cards = QHBoxLayout(self._row)
        self._cards.setContentsMargins(0, 0, 0, 0)
        self._cards.setSpacing(4)
        self._row.setStyleSheet("background: transparent;")
        self._scroll = QScrollArea()
        self._scroll.setWidget(self._row)
        self._scroll.setWidgetResizable(True)
        self._scroll.setStyleSheet("background: transparent;")
        self._scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        # A busy machine lays the cards out later than the turn that made them.
        self._scroll.horizontalScrollBar().rangeChanged.connect(lambda *_: self._show_current())
        self.totals, self.saved = label("", 10), label("", 9, role="muted")
        for words in (self.totals, self.saved):
            words.setAlignment(Qt.AlignmentFlag.AlignRight)
        right = QVBoxLayout()
        right.setSpacing(1)
        right.addStretch(1)
        right.addWidget(self.totals)
        right.addWidget(self.saved)
        right.addStretch(1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(PAD, 6, PAD, 6)
        layout.setSpacing(12)
        self._shown: tuple[list[tuple[str, str, str]], int, str | None] | None = None
        layout.addWidget(label(tr("Recipe"), 10, role="muted"))
        layout.addWidget(self._scroll, 1)
        layout.addLayout(right)

    def show_stages(
        self, cards: Sequence[tuple[str, str, str]], looking_at: int, preview: str | None, changing: int | None = None
    ) -> None:
        """Names, captions and, for a step that no longer applies, why; the first is the original. The one that is
        `changing` is current, and the later ones are grey.
        """
        current = looking_at if changing is None else changing
        if self._shown == (cards, current, preview):
            return
        self._shown = list(cards), current, preview
        while (item := self._cards.takeAt(0)) is not None:
            if widget := item.widget():
                widget.hide()  # not unparented: that would make a window of it for a moment
                widget.deleteLater()
        for number, (name, caption, stale) in enumerate(cards):
            if number:
                self._cards.addWidget(label("▸", 9, role="muted"))
            card = Card(name, caption, current=number == current, later=number > current, stale=stale)
            card.clicked.connect(lambda _=False, n=number: self.stage_chosen.emit(n))
            card.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
            card.customContextMenuRequested.connect(
                lambda at, n=number, c=card: self.menu_asked.emit(n, c.mapToGlobal(at))
            )
            self._cards.addWidget(card)
        if preview:
            self._cards.addWidget(label("▸", 9, role="muted"))
            self._cards.addWidget(Card(preview, "preview", current=False, dashed=True))
        self._cards.addStretch(1)
        after_this_turn(self, self._show_current)  # once the cards have their places

    def _show_current(self) -> None:
        """The state that is looked at, and what a step would add to it, are in view."""
        items = [self._cards.itemAt(place) for place in range(self._cards.count())]
        cards = [widget for item in items if item and isinstance(widget := item.widget(), Card)]
        for card in cards:  # what would be added comes last, and beside the current one
            if not (card.current or card.dashed):
                continue
            self._scroll.ensureWidgetVisible(card, px(40), 0)


class MessageBar(QFrame):
    """A sentence that wants to be read, and goes when it was."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("message")
        self.words = QLabel("")
        self.words.setFont(font(10, 500))
        self.words.setWordWrap(True)
        self.words.setTextFormat(Qt.TextFormat.PlainText)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        close = QPushButton(tr("Close"))
        close.setFont(font(9.5))
        close.clicked.connect(self.hide)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(PAD, 8, PAD, 8)
        layout.addWidget(self.words, 1)
        layout.addWidget(close)
        self.hide()

    def say(self, sentence: str) -> None:
        """Says something, until it is read or something else is said."""
        self.words.setText(said(sentence))
        self.setAccessibleName(said(sentence))
        self.show()
