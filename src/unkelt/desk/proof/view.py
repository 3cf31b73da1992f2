"""The Proof view: what was meant beside what an importer reads, and the dry run of the cut with a moving head."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker, Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QSlider,
    QSplitter,
    QStackedLayout,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.drawing import Lens, drawing_of
from unkelt.desk.common.proof_box import FigureRows, ProofBox
from unkelt.desk.common.theme import PAD, font, px
from unkelt.desk.common.widgets import label, named, scrolling, titled
from unkelt.desk.common.worker import after_this_turn
from unkelt.desk.proof.pair import PicturePair
from unkelt.desk.table.table import LightTable
from unkelt.job.budget import moved_mm
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.language import said, tr
from unkelt.session.painted import Painted
from unkelt.session.proofing import ReadBack, Reader, clock, head_words, readers, run_words
from unkelt.session.sentences import proof_rows

TICK_MS = 40
STEPS = 1000
PLAY_S = 12.0
"""The whole run is shown in so many seconds."""


class ProofView(QWidget):
    """`asked` with the name of the importer to try."""

    asked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.found: ReadBack | None = None
        self.meant, self.read = LightTable(), LightTable()
        self.meant.lens, self.read.lens = Lens.INK, Lens.BLADE
        self.meant.setAccessibleName(tr("Intended"))
        self.read.setAccessibleName(tr("Imported"))
        for table in (self.meant, self.read):
            table.setMinimumSize(300, 130)
        self.pair = PicturePair()
        self._timer = QTimer(self)
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self._tick)
        split, panel, right = QSplitter(Qt.Orientation.Horizontal), named(QWidget(), "panel"), QWidget()
        split.setHandleWidth(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(split)
        split.addWidget(panel)
        split.addWidget(right)
        split.setStretchFactor(1, 1)
        self._make_panel(panel)
        self._make_pages(right)
        split.setSizes([px(330), 950])

    def _make_pages(self, right: QWidget) -> None:
        """The outlines and the run, or both pictures."""
        tables = QWidget()
        self.pages = QStackedLayout(right)
        self.pages.addWidget(tables)
        self.pages.addWidget(self.pair)
        self._make_tables(tables)

    def _make_tables(self, right: QWidget) -> None:
        """What was meant above what was read, and the run below."""
        tables, run = QSplitter(Qt.Orientation.Vertical), named(QWidget(), "footer")
        tables.setHandleWidth(1)
        column = QVBoxLayout(right)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(tables, 1)
        column.addWidget(run)
        for words, table in ((tr("intended"), self.meant), (tr("imported"), self.read)):
            tables.addWidget(titled(words, table))
        self._make_run(run)

    def _make_panel(self, panel: QWidget) -> None:
        inside = QWidget()
        panel.setMinimumWidth(290)
        outer = QVBoxLayout(panel)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scrolling(inside, upright=True))
        self.headline = label("", 14, 600, wrap=True)
        self.importer = QComboBox()
        self.importer.setFont(font(10))
        self.importer.setAccessibleName(tr("Importer"))
        self._readers: dict[str, Reader] = {}
        self.show_readers(Ticket())
        self.importer.currentIndexChanged.connect(lambda _: self.ask())
        self.says = label("", 9.5, role="muted", wrap=True)
        self.verdict, self.differences = ProofBox(), ProofBox()
        self.pictures, self.turn = ProofBox(), QPushButton(tr("Show both pictures"))
        self.turn.setFont(font(10))
        self.turn.setToolTip(tr("The file as received and as written, painted by a second program"))
        self.turn.clicked.connect(self._turn)
        self.figures, self.run_figures, self.held = FigureRows(), FigureRows(), ProofBox()
        self.mishaps, self.head = ProofBox(), label("", 9.5, role="muted", wrap=True)
        column = QVBoxLayout(inside)
        column.setContentsMargins(PAD, PAD, PAD, PAD)
        column.setSpacing(10)
        for widget in (
            self.headline,
            label(tr("Read back by"), 10, role="muted", wrap=True),
            self.importer,
            self.says,
            self.verdict,
            self.differences,
            self.held,
            self.pictures,
            self.turn,
            self.figures,
            label(tr("Dry run"), 12, 600),
            self.head,
            self.mishaps,
            self.run_figures,
        ):
            column.addWidget(widget)
        column.addStretch(1)

    def _make_run(self, holder: QWidget) -> None:
        self.play = QPushButton(tr("Run"))
        self.play.setFont(font(10, 600))
        self.play.setToolTip(tr("Plays the dry run"))
        self.play.clicked.connect(self._play)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, STEPS)
        self.slider.setMinimumHeight(26)
        self.slider.setAccessibleName(tr("Moment of the dry run"))
        self.slider.valueChanged.connect(self._scrub)
        self.clock = label("", 10)
        self.clock.setMinimumWidth(150)
        holder.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(holder)
        row.setContentsMargins(PAD, 8, PAD, 8)
        row.addWidget(self.play)
        row.addWidget(self.slider, 1)
        row.addWidget(self.clock)

    def show_readers(self, ticket: Ticket) -> None:
        """Who can be asked to read the file back: the ticket's destinations first, then the stand-ins."""
        found = readers(ticket)
        if found == self._readers:
            return
        self._readers = found
        with QSignalBlocker(self.importer):
            self.importer.clear()
            for name, reader in found.items():
                self.importer.addItem(said(reader.name) if reader.is_stand_in else reader.name, name)

    def ask(self) -> None:
        """Asks for the file as an importer reads it."""
        self._timer.stop()
        self.asked.emit(str(self.importer.currentData()))

    def show_waiting(self) -> None:
        """It is being read."""
        self.headline.setText(tr("Reading it back…"))
        for box in (self.verdict, self.differences, self.held, self.mishaps, self.pictures):
            box.say("clean", [])
        self.pair.clear()
        self.says.setText(said(self._readers[str(self.importer.currentData())].says))

    def show_refused(self, sentence: str) -> None:
        """Why it can't be written for this importer, or not be read."""
        self.found = None
        self.headline.setText(tr("It can't be written for this importer"))
        self.verdict.say("hold", [tr("On hold"), said(sentence)])
        for rows in (self.figures, self.run_figures):
            rows.show_rows([])
        for table in (self.meant, self.read):
            table.show_drawing(None, fit=False)

    def show_painted(self, found: Painted) -> None:
        """Both pictures, and in the panel what came of laying them beside each other."""
        self.pictures.say(found.state, list(found.summary))
        self.pair.show_painted(found)
        self.turn.show()

    def _turn(self) -> None:
        """From the outlines to the pictures, and back."""
        outlines = self.pages.currentWidget() is not self.pair
        self.pages.setCurrentIndex(1 if outlines else 0)
        self.turn.setText(tr("Show the outlines") if outlines else tr("Show both pictures"))

    def show_look(self, found: ReadBack, workshop: Workshop) -> None:
        """What an importer made of the file."""
        self.found = found
        clean = found.proof.verdict == "clean"
        if found.differences:
            self.headline.setText(tr("The file imports differently"))
        else:
            held = tr("The file imports as intended, but is on hold")
            self.headline.setText(tr("The file imports as intended") if clean else held)
        self.says.setText(said(self._readers[found.importer].says))
        self.verdict.say(found.proof.verdict, [tr("Clean")] if clean else [tr("On hold"), *found.proof.reasons])
        words = list(found.differences) or [tr("Bodies, pieces, counters, nodes and size are as intended.")]
        self.differences.say("hold" if found.differences else "clean", words)
        rows = proof_rows(found.proof, moved_mm(found.meant))
        self.figures.show_rows([(name, "", value) for name, value in rows])
        loose = any(each.is_loose for each in found.held)
        words = [tr("What holds what"), *(said(each.words()) for each in found.held)] if found.held else []
        self.held.say("hold" if loose else "clean", words)
        self.run_figures.show_rows(list(found.run_rows))
        wrong = run_words(found, workshop.ticket)
        self.head.setText(said(head_words(workshop.ticket)))
        self.head.setVisible(bool(self.head.text()))
        self.mishaps.setVisible(bool(wrong))
        self.mishaps.say("hold", wrong)
        after_this_turn(self, lambda: self._show_tables(found, workshop))

    def _show_tables(self, found: ReadBack, workshop: Workshop) -> None:
        """In a turn of their own: panel and tables together would keep the window from answering for too long."""
        if found is not self.found:
            return
        self.read.show_mishaps(found.mishaps, found.run.pinched, workshop.ticket.machine.kerf_mm)
        self.meant.show_drawing(drawing_of(found.meant, workshop), fit=True)
        self.read.show_drawing(drawing_of(found.read, workshop), fit=True)
        self.slider.setValue(STEPS)
        self._scrub(STEPS)

    def _scrub(self, value: int) -> None:
        if self.found is not None:
            seconds = self.found.run.seconds * value / STEPS
            self.read.show_run(self.found.run, seconds)
            self.clock.setText(
                tr("{clock} of {clock2}").format(clock=clock(seconds), clock2=clock(self.found.run.seconds))
            )

    def _play(self) -> None:
        if self._timer.isActive():
            self._timer.stop()
            self.play.setText(tr("Run"))
            return
        if self.slider.value() >= STEPS:
            self.slider.setValue(0)
        self._timer.start()
        self.play.setText(tr("Pause"))

    def _tick(self) -> None:
        self.slider.setValue(min(STEPS, self.slider.value() + max(1, round(STEPS * TICK_MS / 1000 / PLAY_S))))
        if self.slider.value() >= STEPS:
            self._timer.stop()
            self.play.setText(tr("Run"))
