"""Words typed on the table: new lettering, and the words of live text, seen in their face as they are typed."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QPointF, Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit

from unkelt.desk.common.theme import font, px
from unkelt.desk.compose.controller import Composing
from unkelt.desk.table.ruling import RULER
from unkelt.language import tr
from unkelt.recipe import Call
from unkelt.session.writing import Writing, begun, corrected

WAIT_MS = 60
"""How long the typing rests before the words are set: so that a fast hand isn't held up by every letter."""


class WritingOnTable(QObject):
    """A field that lies on the table. Return takes the words, Escape leaves all as it was."""

    def __init__(self, composing: Composing) -> None:
        super().__init__(composing.view)
        self.composing, self.view, self.state = composing, composing.view, composing.state
        self.field = QLineEdit(self.view.table)
        self.field.setObjectName("writing")
        self.field.setFont(font(11))
        self.field.setPlaceholderText(tr("type the words, then Return"))
        self.field.setAccessibleName(tr("Words on the table"))
        self.field.hide()
        self.field.textChanged.connect(self._typed)
        self.field.returnPressed.connect(self._take)
        self.field.installEventFilter(self)
        self._writing: Writing | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(WAIT_MS)
        self._soon.timeout.connect(self._try)
        self.view.table.hand.double_clicked.connect(self._double_clicked)
        self.view.layers.edit_asked.connect(self.correct)
        self.view.add_lettering_asked.connect(self.begin)
        self.view.table.sight.changed.connect(self._place)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.field and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape:
            if event.type() == QEvent.Type.ShortcutOverride:
                event.accept()
                return True
            if event.type() == QEvent.Type.KeyPress:
                self.leave()
                return True
        return super().eventFilter(watched, event)

    @property
    def going_on(self) -> bool:
        """Whether words are being typed."""
        return self._writing is not None

    def begin(self) -> None:
        """New lettering, in the middle of the page or beneath what stands there; a click moves it."""
        job = self.state.job
        if job is not None and self.state.at_latest:
            self._open(begun(job.shown, job.workshop), "")

    def correct(self, item: str) -> None:
        """The words of live text."""
        job = self.state.job
        writing = corrected(job.shown, job.workshop, item) if job is not None else None
        if writing is not None and self.state.at_latest:
            self._open(writing, writing.words)

    def move_to(self, x: float, y: float) -> bool:
        """New words begin at another place; whether any are being typed."""
        if self._writing is None:
            return False
        self._writing = self._writing.at(x, y)
        self._place()
        self._try()
        self.field.setFocus()
        return True

    def _double_clicked(self, x: float, y: float) -> None:
        """Live text is corrected where it stands; two clicks beside everything show the whole sheet."""
        found = self.composing.pointing.items_at(x, y)
        live = {entry.id for entry in self.view.entries if entry.live}
        if found and found[0] in live:
            self.correct(found[0])
        elif not found:
            self.view.table.sight.fit()

    def _open(self, writing: Writing, words: str) -> None:
        self.composing.leave()
        self._writing = writing
        self.composing.awaited = writing.step
        self.field.setText(words)
        self.field.selectAll()
        self._place()
        self.field.show()
        self.field.setFocus()
        self.view.table.hand.framed.box = None

    def _place(self) -> None:
        """Below where the words stand, in sight."""
        if self._writing is None:
            return
        table = self.view.table
        x, y = table.view.to_px(*self._writing.below)
        width = px(260)
        at = QPointF(x - width / 2 + RULER, y + 14 + RULER)
        left = int(min(max(at.x(), RULER + 4), max(table.width() - width - 6, RULER + 4)))
        top = int(min(max(at.y(), RULER + 4), table.height() - px(84)))
        self.field.setGeometry(left, top, width, px(34))

    def _typed(self) -> None:
        if self._writing is not None:
            self._soon.start()

    def _call(self) -> Call | None:
        words = self.field.text().strip()
        return self._writing.call(words) if self._writing is not None and words else None

    def _try(self) -> None:
        if self._writing is None:
            return
        call = self._call()
        if call is None:
            self.view.table.trying.show(None)
        else:
            self.state.stepping.try_step(call)

    def _take(self) -> None:
        call, writing = self._call(), self._writing
        self._close()
        if call is None or writing is None:
            return
        self.state.stepping.clear()
        if call.options.get("text") == writing.words:
            self.composing.leave()
        else:
            self.composing.take_at_once(call)

    def leave(self) -> None:
        """Nothing was typed."""
        if self._writing is not None:
            self._close()
            self.composing.leave()

    def _close(self) -> None:
        self._writing = None
        self._soon.stop()
        self.field.hide()
        self.view.table.setFocus()
