"""The table of actions as Qt's actions, menus, and a page of keys."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QDialog, QGridLayout, QMainWindow, QMenu, QVBoxLayout, QWidget

from unkelt.desk.common.icons import icon
from unkelt.desk.common.widgets import label, scrolling
from unkelt.language import said, tr
from unkelt.session.actions import ACTIONS


def make_actions(window: QMainWindow, do: Callable[[str], object]) -> dict[str, QAction]:
    """An action for every entry of the table, in its menu; `do` is given the id of the one that is asked for."""
    menus: dict[str, QMenu] = {}
    made: dict[str, QAction] = {}
    for entry in ACTIONS:
        menu = menus.get(entry.menu) or menus.setdefault(entry.menu, window.menuBar().addMenu(said(entry.menu)))
        if entry.separated:
            menu.addSeparator()
        action = QAction(said(entry.words), window)
        action.setObjectName(entry.id)
        action.setCheckable(entry.switches)
        action.setIconText(f" {said(entry.short)}" if entry.short else said(entry.words))
        keys = [key for name in entry.keys for key in _keys(name)]
        action.setShortcuts(list({key.toString(): key for key in keys}.values()))  # each once, or it is ambiguous
        action.triggered.connect(lambda _=False, name=entry.id: do(name))
        menu.addAction(action)
        made[entry.id] = action
    return made


def colour_icons(actions: dict[str, QAction], colour: str) -> None:
    """Icons in the colour of the text beside them."""
    for entry in ACTIONS:
        if entry.icon:
            actions[entry.id].setIcon(icon(entry.icon, colour))


def keys_of(action: QAction) -> str:
    """An action's first key, as the platform writes it."""
    return action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)


def show_keys(window: QMainWindow, actions: dict[str, QAction]) -> None:
    """All keys, in the order of the menus."""
    dialog = QDialog(window)
    dialog.setWindowTitle(tr("Keys"))
    inside = QWidget()
    grid = QGridLayout(inside)
    grid.setContentsMargins(24, 20, 24, 20)
    grid.setHorizontalSpacing(28)
    for row, entry in enumerate(a for a in ACTIONS if a.keys):
        grid.addWidget(label(entry.words, 10), row, 0)
        grid.addWidget(label(keys_of(actions[entry.id]), 10, 600), row, 1)
    layout = QVBoxLayout(dialog)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.addWidget(scrolling(inside, upright=True))
    dialog.resize(inside.sizeHint().width() + 24, min(inside.sizeHint().height() + 4, round(window.height() * 0.85)))
    dialog.exec()


def _keys(name: str) -> list[QKeySequence]:
    if name.startswith("StandardKey."):
        return list(QKeySequence.keyBindings(getattr(QKeySequence.StandardKey, name.removeprefix("StandardKey."))))
    return [QKeySequence(name)]
