"""The window: what it is filled with, its settings and its look, and what the desktop asks of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QApplication, QMainWindow

from unkelt.app.desktop import Desktop
from unkelt.desk.common.bars import MessageBar
from unkelt.desk.common.canvas import finish_drawing
from unkelt.desk.common.drawing import Lens, make_ready
from unkelt.desk.common.theme import DARK, LIGHT, THEME, font, set_text_size, system_text_size
from unkelt.desk.common.worker import Bench, after_this_turn
from unkelt.desk.doings import Doings, doings_in
from unkelt.desk.intake.watch import Watcher
from unkelt.desk.menus import colour_icons, make_actions
from unkelt.desk.room import Room
from unkelt.desk.views import View
from unkelt.errors import UnkeltError
from unkelt.language import tr
from unkelt.session.kept_jobs import Keeper
from unkelt.session.settings import Settings, keep_settings, read_settings, text_step

LATER = 3
"""Turns that what nobody waits for begins later, so that a view is there before its small pictures."""


class Desk(QMainWindow):
    """One window with one or more jobs, one of them in front."""

    def __init__(self, keeper: Keeper | None = None, settings_path: Path | None = None) -> None:
        super().__init__()
        self.settings_path = settings_path
        self.settings = read_settings(settings_path) if settings_path else Settings()
        self.bench, self.behind, self.archive = Bench(self), Bench(self, threads=1, later=LATER), Bench(self, threads=1)
        """For what is waited for, what nobody waits for, and what is kept of it all, which never waits for the
        others."""
        self.state = Desktop(
            keeper, self.bench, self.behind, self.archive, make_ready, lambda begin: after_this_turn(self, begin)
        )
        self.watcher = Watcher(self)
        self.watcher.arrived.connect(self.state.opening.open_paths)
        self.log: Path | None = None
        self.setWindowTitle("Unkelt")
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.actions_by_id = make_actions(self, self._do)
        colour_icons(self.actions_by_id, THEME.palette.text)
        THEME.changed.connect(self._show_palette)
        for bench in (self.bench, self.behind):
            bench.held = lambda: self.is_furnished and self.room.inspecting.table.canvas.busy
        self._asked: list[str] = []
        """Actions that were asked for while the parts that do them were being made."""
        self._furnishing: Iterator[None] | None = self._furnish(grid=False)
        for _ in self._furnishing:
            pass
        self._furnishing = None
        self._settle()

    # what it is filled with

    def _furnish(self, *, grid: bool) -> Iterator[None]:
        self.room = Room(self, self.bench, self.watcher)
        self.setCentralWidget(self.room)
        yield from self.room.furnish(grid=grid)

    def _settle(self) -> None:
        """All is there."""
        self._doings: Doings = {
            **doings_in(self.room),
            "close_window": self.close,
            "stop_work": self._stop_work,
            "look_theme": self._look_theme,
            "text_larger": lambda: self._resize_text(1),
            "text_smaller": lambda: self._resize_text(-1),
        }

    def _do(self, action: str) -> None:
        """What an action does; once they are there, where the parts that would do it are being made anew."""
        if self.is_furnished:
            self._doings[action]()
        else:
            self._asked.append(action)

    def _furnish_anew(self) -> None:
        """All parts are made anew, one in each turn, so that the window goes on meanwhile."""
        if not self.is_furnished:
            after_this_turn(self, self._furnish_anew)
            return
        lens, view, grid = self.room.inspecting.table.lens, self.room.view, self.room.laying.grid
        self.behind.stop("picture")  # what is under way for parts that are about to go
        for purpose in ("ledger", "look", "trial"):
            self.bench.stop(purpose)
        self.room.leave()
        self._furnishing = self._furnish(grid=grid)
        self._next_part(lens, view)

    def _next_part(self, lens: Lens, view: View) -> None:
        assert self._furnishing is not None
        if next(self._furnishing, self) is None:
            after_this_turn(self, lambda: self._next_part(lens, view))
            return
        self._furnishing = None
        self._settle()
        self.room.inspecting.show_lens(lens)
        if self.state.job:
            self.state.show_again()
            self.room.turn_to(view)
        asked, self._asked = self._asked, []
        for action in asked:
            self._do(action)

    @property
    def is_furnished(self) -> bool:
        """Whether all parts are there."""
        return self._furnishing is None

    # what those who work in it ask

    @property
    def itself(self) -> QMainWindow:
        """The window, for dialogs to lie over."""
        return self

    @property
    def message(self) -> MessageBar:
        """The bar at its foot."""
        return self.room.message

    @property
    def view(self) -> View:
        """The view that is shown."""
        return self.room.view

    def do(self, action: str) -> None:
        """Does an action of the table."""
        self._do(action)

    def turn_to(self, view: View) -> None:
        """Shows a view."""
        self.room.turn_to(view)

    def remember(self, **chosen: Any) -> None:
        """Keeps what was chosen for all jobs."""
        self.settings = replace(self.settings, **chosen)
        if self.settings_path is not None:
            try:
                keep_settings(self.settings_path, self.settings)
            except UnkeltError as problem:
                self.message.say(str(problem))

    # its look

    def _look_theme(self) -> None:
        dark = THEME.palette is LIGHT
        THEME.take(DARK if dark else LIGHT)
        self.remember(theme="dark" if dark else "light")

    def _show_palette(self) -> None:
        """What was painted into pictures is painted anew; all else asks for the colours when it is painted."""
        colour_icons(self.actions_by_id, THEME.palette.text)
        if self._furnishing is None:
            self.room.show_palette()

    def _resize_text(self, step: int) -> None:
        """The next size of text up or down; all parts are made anew in it."""
        size = text_step(self.settings.text, system_text_size(), step)
        self.remember(text=size)
        set_text_size(int(size) / 100)
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.setFont(font())
        after_this_turn(self, self._furnish_anew)  # not while an old part is still at it

    # what is asked of it from outside

    def _stop_work(self) -> None:
        if self.bench.is_busy():
            self.bench.stop()
            if self.state.findings is None:
                self.room.inspecting.docket.summary.setText(tr("Stopped"))
        elif not self.room.benching.escape():
            self.message.hide()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        tickets = [path for path in paths if path.suffix == ".toml"]
        files = [path for path in paths if path.suffix != ".toml"]
        self.state.opening.open_paths(files, tickets[0] if tickets else None)
        event.acceptProposedAction()

    def closeEvent(self, event: QCloseEvent) -> None:
        unsaved = [job.title for job in self.state.jobs if job.unsaved_changes]
        if unsaved and not self.room.filing.may_discard(unsaved):
            event.ignore()
            return
        for bench in (self.bench, self.behind, self.archive):
            bench.wait()
        finish_drawing()
        self.state.keeping.end()
        super().closeEvent(event)
