"""What helps: the command list, the keys, the guide, and what to send with a report."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import qVersion
from PySide6.QtGui import QGuiApplication

from unkelt.desk.compose.view import ComposeView
from unkelt.desk.frame import Frame
from unkelt.desk.help.about import About
from unkelt.desk.help.command_list import Command, CommandList
from unkelt.desk.help.handbook import Handbook
from unkelt.desk.menus import keys_of, show_keys
from unkelt.desk.views import View
from unkelt.language import tr
from unkelt.session.actions import ACTIONS
from unkelt.session.bench import offers_by_hand
from unkelt.session.log import details
from unkelt.steps.steps import STEPS


class Helping:
    """Help for one window."""

    def __init__(self, window: Frame, compose: ComposeView) -> None:
        self.window, self.compose = window, compose
        self._guide: Handbook | None = None

    def show_commands(self) -> None:
        """Everything that can be done, to be found by a few letters."""
        there = self.window.state.job is not None
        commands = [
            Command(
                entry.words,
                entry.menu,
                keys_of(self.window.actions_by_id[entry.id]),
                self.window.actions_by_id[entry.id].isEnabled(),
                self.window.actions_by_id[entry.id].trigger,
            )
            for entry in ACTIONS
            if entry.id != "show_commands"
        ]
        commands += [
            Command(step.title, tr("step {name}").format(name=name), "", there, partial(self._compose_with, name))
            for name, step in STEPS.items()
        ]
        listed = CommandList(self.window.itself, commands)
        listed.exec()
        if listed.chosen is not None:
            listed.chosen.run()

    def show_keys(self) -> None:
        """The page of keys."""
        show_keys(self.window.itself, self.window.actions_by_id)

    def show_guide(self, at: str = "") -> None:
        """The guide, offline, at its beginning or at what it says of a code; one window of it."""
        if self._guide is None:
            self._guide = Handbook(self.window.itself)
        self._guide.show()
        self._guide.activateWindow()
        if isinstance(at, str) and at:  # an action's signal brings whether it is checked
            self._guide.show_code(at)

    def explain(self) -> None:
        """What the guide says of the finding chosen."""
        if self.window.state.finding is not None:
            self.show_guide(self.window.state.finding.code)

    def copy_details(self) -> None:
        """What to send with a report, on the clipboard; no folder of this machine is in it."""
        job = self.window.state.job
        more = tr("Qt {qversion}; {count} open; steps: {value}").format(
            qversion=qVersion(),
            count=len(self.window.state.jobs),
            value=", ".join(s.call.name for s in job.stages) if job else "",
        )
        QGuiApplication.clipboard().setText(details(self.window.log, more))
        self.window.message.say(
            tr("Copied: versions, the steps of this job and the end of the log. Folder names are left out.")
        )

    def show_about(self) -> None:
        """The version, and what is inside with its licences."""
        About(self.window.itself).exec()

    def _compose_with(self, step: str) -> None:
        """The Compose view with this step chosen, if what is chosen there takes it."""
        self.window.turn_to(View.COMPOSE)
        offer = next((offer for offer in offers_by_hand(self.compose.chosen()) if offer.name == step), None)
        if offer is not None and not offer.why_not:
            self.compose.steps.taken.emit(step)
        else:
            self.window.message.say(offer.why_not if offer else tr("This step is taken in Inspect."))
