"""What people do with files: open, save, release over a hold, close; each asks where, and hands on to the state."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_config_path, user_documents_path
from PySide6.QtWidgets import QFileDialog, QInputDialog, QMessageBox

from unkelt.demo import FOLDER as DEMO_FOLDER
from unkelt.demo import make_demo
from unkelt.desk.beginning import NewSheetDialog
from unkelt.desk.frame import Frame
from unkelt.desk.intake.key import ask_meanings
from unkelt.errors import UnkeltError
from unkelt.formats.files import write_whole
from unkelt.formats.formats import READERS
from unkelt.language import tr
from unkelt.messages import sentence
from unkelt.recipe import dump_recipe, read_recipe
from unkelt.session.colours import colours_of, ticket_with
from unkelt.session.reading import UNITS
from unkelt.session.shop import Shop
from unkelt.session.working_file import ENDING

SAVING = tr("SVG (*.svg);;Working file (*.unkelt);;DXF (*.dxf);;PDF (*.pdf);;HPGL (*.plt)")


class Filing:
    """Joins the dialogs about files to the state."""

    def __init__(self, window: Frame) -> None:
        self._frame, self.window, self.state = window, window.itself, window.state

    def _folder(self) -> str:
        return str(self.state.job.path.parent) if self.state.job else str(Path.home())

    def open_file(self) -> None:
        """Asks for files, and opens them."""
        endings = " ".join(f"*{ending}" for ending in (*READERS, ENDING))
        names, _ = QFileDialog.getOpenFileNames(
            self.window, tr("Open lettering files"), self._folder(), tr("Lettering ({endings})").format(endings=endings)
        )
        if names:
            self.state.opening.open_paths([Path(name) for name in names])

    def new_sheet(self) -> None:
        """Asks for words and makes a sheet of them."""
        shop = Shop(user_config_path("unkelt") / "tickets")
        dialog = NewSheetDialog(self.window, shop, UNITS[self._frame.settings.unit])
        if dialog.exec() and dialog.wanted is not None:
            self.state.opening.begin(dialog.wanted, dialog.ticket, Path(self._folder()))

    def open_demo(self) -> None:
        """The jobs of Hollin Quay, in a folder among the person's documents; what is there stays as it is."""
        folder = user_documents_path() / DEMO_FOLDER

        def done(paths: list[Path]) -> None:
            self.state.on_desk.said.emit(tr("The jobs of Hollin Quay lie in {folder}.").format(folder=folder))
            self.state.opening.open_paths(paths)

        self.state.bench.start(
            "demo",
            tr("Making the jobs of Hollin Quay…"),
            lambda _: [path for path in make_demo(folder) if path.suffix == ".svg"],
            done,
            self.state.on_desk.said.emit,
        )

    def close_file(self) -> None:
        """Takes the job in front off the desk."""
        job = self.state.job
        if job is not None and (not job.unsaved_changes or self.may_discard([job.title])):
            self.state.on_desk.close(self.state.on_desk.front)

    def open_ticket(self) -> None:
        """Asks for a ticket for the job."""
        name, _ = QFileDialog.getOpenFileName(self.window, tr("Choose a ticket"), self._folder(), tr("Ticket (*.toml)"))
        if name:
            self.state.opening.take_ticket(Path(name))

    def set_colours(self) -> None:
        """What each colour is for: the ticket's key."""
        job = self.state.job
        if job is None:
            return
        meanings = ask_meanings(self.window, colours_of(job.shown, job.ticket))
        if meanings is not None:
            try:
                self.state.on_desk.use_ticket(ticket_with(job.ticket, meanings))
            except UnkeltError as problem:
                self.state.on_desk.said.emit(sentence(str(problem)))

    def save_ticket(self) -> None:
        """Asks where the ticket goes, and writes it."""
        job = self.state.job
        if job is None or not job.ticket.source:
            return
        start = str(job.path.with_suffix(".toml"))
        name, _ = QFileDialog.getSaveFileName(self.window, tr("Save the ticket"), start, tr("Ticket (*.toml)"))
        self._write(name, job.ticket.source, job.path)

    def save_as(self) -> None:
        """Asks where the sheet goes, and writes it."""
        job = self.state.job
        if job is None:
            return
        fresh = job.path if job.own_file is None else job.path.with_name(f"{job.path.stem}-mended.svg")
        start = job.saved_path or fresh
        name, _ = QFileDialog.getSaveFileName(self.window, tr("Save the result"), str(start), SAVING)
        if name:
            self.state.handing.save_to(Path(name) if Path(name).suffix else Path(f"{name}.svg"))

    def save_chosen(self, items: tuple[str, ...]) -> None:
        """Asks where what is chosen goes, and writes it alone."""
        job = self.state.job
        if job is None or not items:
            return
        start = job.path.with_name(f"{job.path.stem}-part.svg")
        name, _ = QFileDialog.getSaveFileName(self.window, tr("Save only what is chosen"), str(start), SAVING)
        if name:
            self.state.handing.save_to(Path(name) if Path(name).suffix else Path(f"{name}.svg"), items)

    def save_recipe(self) -> None:
        """Asks where the steps go, and writes them."""
        job = self.state.job
        if job is None or not job.stages:
            return
        start = str(job.path.with_name(f"{job.path.stem}-recipe.toml"))
        name, _ = QFileDialog.getSaveFileName(self.window, tr("Save the recipe"), start, tr("Recipe (*.toml)"))
        self._write(name, dump_recipe(job.recipe), job.path)

    def run_recipe(self) -> None:
        """Asks for a recipe, and takes its steps on the job as it stands."""
        job = self.state.job
        if job is None:
            return
        beside = job.path.with_name(f"{job.path.stem}-recipe.toml")
        start = str(beside) if beside.is_file() else self._folder()
        name, _ = QFileDialog.getOpenFileName(self.window, tr("Run a recipe"), start, tr("Recipe (*.toml)"))
        if name:
            try:
                self.state.stepping.run_recipe(read_recipe(Path(name)))
            except UnkeltError as problem:
                self.state.on_desk.said.emit(sentence(str(problem)))

    def _write(self, name: str, text: str, original: Path) -> None:
        """A text into a file that was named, if one was."""
        if name:
            try:
                write_whole(Path(name), text.encode(), never_over=original)
            except UnkeltError as problem:
                self.state.on_desk.said.emit(str(problem))

    def save_burn(self) -> None:
        """The engraving as it would burn, as a picture."""
        job = self.state.job
        if job is None:
            return
        start = str(job.path.with_name(f"{job.path.stem}-burn.png"))
        name, _ = QFileDialog.getSaveFileName(self.window, tr("Save the burn"), start, tr("PNG (*.png)"))
        if name:
            self.state.handing.save_burn(Path(name))

    def ask_reason(self, holds: tuple[str, ...]) -> str:
        """Why it is released although something holds; empty where it isn't."""
        words = tr("On hold:\n\n") + "\n".join(f"•  {hold}" for hold in holds[:8])
        more = tr("\n…  and {value} more").format(value=len(holds) - 8) if len(holds) > 8 else ""
        reason, sure = QInputDialog.getText(
            self.window,
            tr("Release over a hold"),
            tr("{words}{more}\n\nThe reason, which goes on the inspection sheet:").format(words=words, more=more),
        )
        return reason.strip() if sure else ""

    def may_discard(self, titles: list[str]) -> bool:
        """Asks whether what no file has may go; true where there is none."""
        answer = QMessageBox.question(
            self.window,
            tr("Not saved"),
            tr("The changes to {listed} are not saved. Discard them?").format(listed=", ".join(titles)),
            QMessageBox.StandardButton.Discard | QMessageBox.StandardButton.Cancel,
            QMessageBox.StandardButton.Cancel,
        )
        return answer == QMessageBox.StandardButton.Discard
