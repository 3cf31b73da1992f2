"""Where jobs come in: the first page, the tray, the ticket form, a watched folder; and a window that is killed."""

import os
import shutil
import signal
import subprocess
import sys

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QInputDialog, QLabel, QPushButton

from tests.desk.hands import found, opened, settle
from unkelt.desk.views import View
from unkelt.desk.window import Desk
from unkelt.session.kept_jobs import Keeper
from unkelt.session.shop import Shop
from unkelt.session.ticketing import FIELDS

WINDOW = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from unkelt.desk.app import make_application
from unkelt.desk.window import Desk
from unkelt.session.kept_jobs import Keeper
app = make_application()
desk = Desk(Keeper(Path(sys.argv[2])))
desk.show()
desk.state.opening.open_paths([Path(sys.argv[1])])
def go():
    if desk.state.findings is None or desk.bench.is_busy() or desk.archive.is_busy():
        return
    if desk.state.job.stages:
        print(len(desk.state.job.stages), flush=True)
    else:
        desk.state.stepping.mend_safe()
timer = QTimer()
timer.timeout.connect(go)
timer.start(20)
app.exec()
"""


def button(widget, words):
    return next(each for each in widget.findChildren(QPushButton) if each.text() == words and not each.isHidden())


def words_of(widget):
    return [label.text() for label in widget.findChildren(QLabel) if not label.isHidden()]


@pytest.fixture
def kept_desk(qtbot, desk, tmp_path):
    made = Desk(Keeper(tmp_path / "state"))
    qtbot.addWidget(made)
    made.show()
    yield made
    made.close()


def test_the_first_page_says_how_to_begin_and_goes_when_a_file_comes(qtbot, desk, quay, monkeypatch):
    assert desk.view is View.START
    assert any("never changes the original" in words for words in words_of(desk.room.starting))
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(quay / "sea-thrift.svg")], ""))
    qtbot.mouseClick(button(desk.room.starting, "Open a file…"), Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    assert desk.view is View.INSPECT
    assert "text.live" in found(desk)
    desk.room.filing.close_file()
    assert desk.view is View.START
    assert desk.windowTitle() == "Unkelt"


def test_a_window_that_was_killed_gives_back_all_steps(qtbot, desk, quay, tmp_path):
    command = [sys.executable, "-c", WINDOW, str(quay / "kittiwake.svg"), str(tmp_path / "state")]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True) as process:
        steps = int(process.stdout.readline())
        os.kill(process.pid, signal.SIGKILL)
    again = Desk(Keeper(tmp_path / "state"))
    qtbot.addWidget(again)
    again.show()
    assert any(f"{steps} steps" in words for words in words_of(again.room.starting))
    qtbot.mouseClick(button(again.room.starting, "Restore"), Qt.MouseButton.LeftButton)
    settle(qtbot, again)
    assert len(again.state.job.stages) == steps > 3
    assert found(again) == []
    assert again.state.job.unsaved_changes
    again.close()
    assert Keeper(tmp_path / "state").left() == []


def test_recent_files_are_on_the_first_page_and_another_window_is_noticed(qtbot, kept_desk, quay, tmp_path):
    opened(qtbot, kept_desk, quay / "sea-thrift.svg")
    other = Desk(Keeper(tmp_path / "state"))
    qtbot.addWidget(other)
    qtbot.mouseClick(button(other.room.starting, "sea-thrift.svg"), Qt.MouseButton.LeftButton)
    settle(qtbot, other)
    assert "also open in another window" in other.message.words.text()
    other.close()


def test_the_tray_shows_every_job_with_its_lamps_and_brings_one_forward(qtbot, desk, quay):
    opened(qtbot, desk, quay / "kittiwake.svg", quay / "sea-thrift.svg", quay / "tags.svg")
    qtbot.keyClick(desk, Qt.Key.Key_1, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    tray = desk.room.intake.tray
    qtbot.waitUntil(
        lambda: all(entry.findings is not None and entry.picture for entry in tray.model.entries), timeout=60_000
    )
    assert tray.count.text() == "3 jobs on the desk"
    names = [tray.model.data(tray.model.index(row), Qt.ItemDataRole.AccessibleTextRole) for row in range(3)]
    assert "Cuts once: 2" in names[0]
    assert "Arrives: " in names[1]
    picture = tray.model.entries[0].picture
    assert any(picture.pixelColor(x, picture.height() // 2).alpha() for x in range(picture.width()))
    tray.list.setFocus()
    qtbot.keyClick(tray.list, Qt.Key.Key_Down)
    settle(qtbot, desk)
    assert desk.state.job.path.name == "sea-thrift.svg"
    assert "texts" in words_of(desk.room.intake)


def test_all_jobs_on_the_desk_are_mended_at_once(qtbot, kept_desk, quay, tmp_path):
    desk = kept_desk
    opened(qtbot, desk, quay / "kittiwake.svg", quay / "sea-thrift.svg", quay / "parcel.svg")
    qtbot.keyClick(desk, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    settle(qtbot, desk)
    assert "2 of 3 jobs mended. Jobs that need your decision: 1" in desk.message.words.text()
    assert [bool(job.stages) for job in desk.state.jobs] == [True, True, False]
    qtbot.waitUntil(lambda: not (desk.behind.is_busy() or desk.archive.is_busy()), timeout=60_000)
    holds = [any(f.level.value == "hold" for f in desk.state.surveying.judged(job)) for job in desk.state.jobs]
    assert holds == [False, False, True]
    assert len(list((tmp_path / "state").glob("*.toml"))) == 3  # two jobs that have steps, and what was opened last


def test_the_ticket_is_filled_in_and_what_it_says_is_looked_at_anew(qtbot, desk, quay, tmp_path, monkeypatch):
    monkeypatch.setattr(desk.room.intaking, "shop", Shop(tmp_path / "shop"))
    shutil.copy(quay / "kittiwake.svg", tmp_path / "plain.svg")
    opened(qtbot, desk, tmp_path / "plain.svg")
    desk.turn_to(View.INTAKE)
    settle(qtbot, desk)
    form = desk.room.intake.form
    inputs = {field.name: widget for field, widget in form.inputs.items()}
    inputs["width"].setFocus()
    qtbot.keyClicks(inputs["width"], "900")
    qtbot.keyClick(inputs["width"], Qt.Key.Key_Return)
    assert "Width: “900” has no unit" in form.trouble.text()
    assert not desk.state.job.ticket.given
    qtbot.keyClicks(inputs["width"], " mm")
    qtbot.keyClick(inputs["width"], Qt.Key.Key_Return)
    settle(qtbot, desk)
    assert not form.trouble.isVisible()
    assert desk.state.job.ticket.width_mm == 900
    assert "size.off-ticket" in found(desk)
    index = inputs["profile"].findData("plasma")
    inputs["profile"].setCurrentIndex(index)
    inputs["profile"].activated.emit(index)
    settle(qtbot, desk)
    assert desk.state.job.ticket.machine.kerf_mm == 1.2
    assert desk.state.job.ticket.source.count("[machine]") == 1

    monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("Steel fascia", True))
    qtbot.mouseClick(form.keep, Qt.MouseButton.LeftButton)
    opened(qtbot, desk, quay / "tags.svg")
    desk.turn_to(View.INTAKE)
    settle(qtbot, desk)
    form.shop.setCurrentIndex(1)
    form.shop.activated.emit(1)
    settle(qtbot, desk)
    assert desk.state.job.ticket.in_one_line() == "900 mm wide ± 0.5 · plasma"
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("../out", True))
    qtbot.mouseClick(form.keep, Qt.MouseButton.LeftButton)
    assert "is no name for a ticket" in form.trouble.text()


@pytest.mark.parametrize("field", [field for field in FIELDS if not field.choices], ids=lambda field: field.name)
def test_every_example_in_the_form_can_be_written_so(qtbot, desk, quay, field):
    opened(qtbot, desk, quay / "parcel.svg")
    desk.room.intaking._write(field, field.example)
    assert not desk.room.intake.form.trouble.text()
    assert field.example.split(",")[0] in desk.state.job.ticket.source


def test_files_that_arrive_in_a_watched_folder_come_onto_the_desk(qtbot, desk, quay, tmp_path, monkeypatch):
    inbox = tmp_path / "inbox"
    inbox.mkdir()
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(inbox))
    desk.room.intaking.ask_watch()
    assert desk.room.intake.tray.watching.text() == f"Watching {inbox}"
    (inbox / "notes.txt").write_text("not lettering")
    shutil.copy(quay / "tags.svg", inbox / "tags.svg")
    qtbot.waitUntil(lambda: desk.state.job is not None, timeout=20_000)
    shutil.copy(quay / "sea-thrift.svg", inbox / "late.svg")
    qtbot.waitUntil(lambda: len(desk.state.jobs) == 2, timeout=20_000)
    settle(qtbot, desk)
    assert [job.path.name for job in desk.state.jobs] == ["tags.svg", "late.svg"]
    desk.room.intaking.ask_watch()
    assert not desk.room.intake.tray.watching.isVisible()


def test_what_lay_on_the_desk_when_it_was_closed_can_be_opened_again(qtbot, quay, tmp_path, monkeypatch):
    keeper = Keeper(tmp_path / "kept")
    desk = Desk(keeper)
    qtbot.addWidget(desk)
    desk.show()
    opened(qtbot, desk, quay / "kittiwake.svg", quay / "tags.svg")
    desk.close()
    assert keeper.together() == [quay / "kittiwake.svg", quay / "tags.svg"]
    again = Desk(Keeper(tmp_path / "kept"))
    qtbot.addWidget(again)
    again.show()
    (button,) = (b for b in again.room.starting.findChildren(QPushButton) if "2 files" in b.text())
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    settle(qtbot, again)
    assert [job.path.name for job in again.state.jobs] == ["kittiwake.svg", "tags.svg"]
    again.close()
