"""The window as one instrument: keys for everything, names for screen readers, contrast, units."""

import dataclasses
import itertools

import pytest
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QLineEdit,
    QSlider,
)

from tests.desk.hands import opened, settle
from unkelt.desk.loupe import Loupe
from unkelt.desk.table import LightTable
from unkelt.desk.theme import DARK, LIGHT
from unkelt.desk.window import Desk
from unkelt.session.actions import ACTIONS
from unkelt.session.dimensions import dimensions


def test_every_action_can_be_done_by_key_or_from_the_command_list(desk, qtbot, quay):
    opened(qtbot, desk, quay / "kittiwake.svg")
    assert set(desk.actions_by_id) == {action.id for action in ACTIONS}
    keys = [key.toString() for action in desk.actions_by_id.values() for key in action.shortcuts()]
    assert len(keys) == len(set(keys)), "a key that means two things does neither"

    def choose():
        listed = QApplication.activeModalWidget()
        qtbot.keyClicks(listed.wanted, "rec tak")
        assert [listed.list.item(row).data(Qt.ItemDataRole.AccessibleTextRole) for row in range(listed.list.count())] == ["Take the step out, Recipe Ctrl+Backspace"]  # fmt: skip
        qtbot.keyClick(listed.wanted, Qt.Key.Key_Return)  # there is no step yet: nothing is done
        assert listed.isVisible()
        listed.wanted.clear()
        qtbot.keyClicks(listed.wanted, "thicken")
        qtbot.keyClick(listed.wanted, Qt.Key.Key_Return)

    QTimer.singleShot(0, choose)
    qtbot.keyClick(desk, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
    assert desk.view.name == "COMPOSE"
    settle(qtbot, desk)


CONTROLS = (QAbstractButton, QLineEdit, QComboBox, QAbstractItemView, QSlider, LightTable, Loupe)


@pytest.mark.parametrize("view", ["intake", "inspect", "compose", "proof", "release"])
def test_a_screen_reader_is_told_what_every_control_is(qtbot, desk, quay, view):
    """By Qt's own accessibility interface."""
    opened(qtbot, desk, quay / "kittiwake.svg")
    getattr(desk, f"view_{view}")()
    settle(qtbot, desk)
    shown = [w for kind in CONTROLS for w in desk.findChildren(kind) if w.isVisible()]
    assert len(shown) > 8
    for widget in shown:
        if isinstance(widget.parent(), QComboBox | QAbstractItemView) or widget.objectName().startswith("qt_"):
            continue  # a part of a control
        told = QAccessible.queryAccessibleInterface(widget)
        assert told.text(QAccessible.Text.Name).strip(), (type(widget).__name__, widget.objectName(), widget.toolTip())


def test_lengths_are_read_in_inches_by_choice_and_that_is_remembered(qtbot, desk, quay, tmp_path):
    desk.settings_path = tmp_path / "unkelt" / "settings.toml"
    opened(qtbot, desk, quay / "kittiwake.svg")
    qtbot.keyClick(desk, Qt.Key.Key_U)
    ink = dimensions(desk.table.drawing.ink, desk.state.job.ticket, desk.table.unit)
    assert [line.label for line in ink][:2] == ["ink 34.045 in", "ticket 35.433 in"]  # 864.75 and 900 mm
    qtbot.mouseMove(desk.table, QPoint(300, 300))
    assert desk.place.text().endswith(" in")
    again = Desk(LIGHT, None, desk.settings_path)
    qtbot.addWidget(again)
    assert again.table.unit.name == "in"
    desk.settings_path.write_text("unit = 'ell'")
    assert Desk(LIGHT, None, desk.settings_path).settings.unit == "mm"


def luminance(colour):
    """Relative luminance, WCAG 2.2, "relative luminance"."""
    parts = [int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)]
    linear = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one, other):
    """Contrast ratio, WCAG 2.2."""
    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def test_the_formula_gives_what_the_standard_says():
    assert contrast("#ffffff", "#000000") == pytest.approx(21)
    assert contrast("#777777", "#ffffff") == pytest.approx(4.48, abs=0.01)  # the published example that just fails


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=["light", "dark"])
def test_contrast_by_wcag_aa(palette):
    """Text 4.5 to 1 (success criterion 1.4.3), marks and edges of controls 3 to 1 (1.4.11)."""
    grounds = (palette.panel, palette.raised, palette.table)
    for ink, ground in itertools.product((palette.text, palette.muted, palette.accent, palette.hold), grounds):
        assert contrast(ink, ground) >= 4.5, (ink, ground)
    for ink, ground in (
        (palette.on_accent, palette.accent),
        (palette.text, palette.accent_soft),
        (palette.accent, palette.accent_soft),
        (palette.muted, palette.accent_soft),
        (palette.hold, palette.hold_soft),
        (palette.text, palette.hold_soft),
    ):
        assert contrast(ink, ground) >= 4.5, (ink, ground)
    for mark, ground in itertools.product((palette.hold, palette.warn, palette.note, palette.accent, palette.art_line), (*grounds, palette.page)):  # fmt: skip
        assert contrast(mark, ground) >= 3, (mark, ground)
    assert all(value.startswith("#") and len(value) == 7 for value in dataclasses.asdict(palette).values())
