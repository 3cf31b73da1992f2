"""What people do in the Intake view: the tray of jobs, the ticket form, a folder to open or to watch."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, QSize, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QFileDialog, QInputDialog

from unkelt.app.desktop import Desktop
from unkelt.app.received import intake
from unkelt.batch.folder import files_in
from unkelt.desk.common.drawing import Lens, drawing_of
from unkelt.desk.common.theme import THEME, Palette
from unkelt.desk.intake.tray import PICTURE, Entry
from unkelt.desk.intake.view import IntakeView
from unkelt.desk.intake.watch import Watcher
from unkelt.errors import UnkeltError
from unkelt.job.workshop import Workshop
from unkelt.language import tr
from unkelt.messages import sentence
from unkelt.session.job import Job
from unkelt.session.shop import Shop
from unkelt.session.ticketing import Field, filled_in
from unkelt.session.viewport import Viewport
from unkelt.sheet.model import Sheet

SHARP = 2
"""Pictures have so many pixels for each of the tray's, for screens that show more."""


class Intaking(QObject):
    """Joins the Intake view to the state."""

    def __init__(self, view: IntakeView, state: Desktop, shop: Shop, watcher: Watcher) -> None:
        super().__init__(view)
        self.view, self.state, self.shop, self.watcher = view, state, shop, watcher
        self._pictures: dict[Path, tuple[Sheet, QImage]] = {}
        view.step_asked.connect(state.stepping.apply)
        view.tray.chosen.connect(self._choose)
        view.tray.watch_asked.connect(self.ask_watch)
        view.tray.folder_asked.connect(self.ask_folder)
        view.tray.mend_asked.connect(state.stepping.mend_all)
        view.form.written.connect(self._write)
        view.form.shop_chosen.connect(self._take_from_shop)
        view.form.keep_asked.connect(self._keep_for_shop)
        view.tray.show_watched(str(watcher.folder) if watcher.folder else "")

    def show(self) -> None:
        """The job in front, and the tray, where they are looked at."""
        if not self.view.isVisible():
            return
        job = self.state.job
        if job is not None:
            self.view.show_intake(intake(job.shown, job.ticket, job.workshop.shelf), job.path.name)
            self.view.form.show_ticket(job.ticket, self.shop.names())
        self.show_tray()

    def show_tray(self) -> None:
        """All jobs on the desk."""
        if not self.view.isVisible():
            return
        entries = [
            Entry(job.title, job.path.name, self.state.surveying.judged(job), self._picture(job))
            for job in self.state.jobs
        ]
        self.view.tray.show_jobs(entries, self.state.on_desk.front)

    def _choose(self, index: int) -> None:
        if 0 <= index < len(self.state.jobs) and index != self.state.on_desk.front:
            self.state.on_desk.bring_forward(index)

    # pictures

    def _picture(self, job: Job) -> QImage | None:
        known = self._pictures.get(job.path)
        if known is None or known[0] is not job.sheet:
            self._draw(job)
        return known[1] if known else None

    def _draw(self, job: Job) -> None:
        """Draws the picture of a job while nobody waits; one at a time, the next is asked for when the tray is
        shown.
        """
        if self.state.behind.has("picture"):
            return
        sheet, workshop, palette = job.sheet, job.workshop, THEME.palette

        def done(picture: QImage) -> None:
            self._pictures[job.path] = sheet, picture
            self.show_tray()

        self.state.behind.start(
            "picture",
            "",
            lambda _: small_picture(sheet, workshop, palette, PICTURE * SHARP),
            done,
            self.state.on_desk.said.emit,
        )

    # the ticket

    def _write(self, field: Field, text: str) -> None:
        job = self.state.job
        if job is None:
            return
        try:
            ticket = filled_in(job.ticket, field, text)
        except UnkeltError as problem:
            self.view.form.refuse(sentence(str(problem)))
            return
        self.view.form.refuse("")
        if ticket != job.ticket or ticket.source != job.ticket.source:
            self.state.on_desk.use_ticket(ticket)

    def _take_from_shop(self, name: str) -> None:
        try:
            self.state.on_desk.use_ticket(self.shop.ticket(name))
        except UnkeltError as problem:
            self.view.form.refuse(sentence(str(problem)))

    def _keep_for_shop(self) -> None:
        job = self.state.job
        if job is None:
            return
        name, sure = QInputDialog.getText(
            self.view, tr("Keep for the shop"), tr("The name that this ticket is kept under:")
        )
        if not sure:
            return
        try:
            self.shop.keep(name, job.ticket)
        except UnkeltError as problem:
            self.view.form.refuse(sentence(str(problem)))
            return
        self.view.form.show_ticket(job.ticket, self.shop.names())

    # folders

    def ask_folder(self) -> None:
        """All lettering files of a folder onto the desk."""
        folder = QFileDialog.getExistingDirectory(self.view, tr("The folder to open"))
        if folder:
            try:
                self.state.opening.open_paths(files_in(Path(folder)))
            except UnkeltError as problem:
                self.state.on_desk.said.emit(str(problem))

    def ask_watch(self) -> None:
        """Watches a folder, or stops watching."""
        if self.watcher.folder is not None:
            self.watcher.watch(None)
        elif folder := QFileDialog.getExistingDirectory(self.view, tr("The folder to watch")):
            self.watcher.watch(Path(folder))
        self.view.tray.show_watched(str(self.watcher.folder) if self.watcher.folder else "")


def small_picture(sheet: Sheet, workshop: Workshop, palette: Palette, size: QSize) -> QImage:
    """A sheet as drawn, for the tray; made in any thread."""
    image = QImage(size, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    drawing = drawing_of(sheet, workshop)
    view = Viewport(size.width(), size.height()).fitted(drawing.everything, 6 * SHARP)
    painter = QPainter(image)
    try:
        drawing.paint(painter, view, Lens.INK, palette, page=False)
    finally:
        painter.end()
    return image
