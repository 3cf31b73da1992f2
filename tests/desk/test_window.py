"""The window, driven by clicks and keys as a person would, offscreen."""

import warnings
import zipfile
from dataclasses import replace

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDesktopServices, QDragEnterEvent, QDropEvent, QGuiApplication
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QInputDialog,
    QLabel,
    QLineEdit,
    QMessageBox,
    QPushButton,
)

from tests.desk.hands import drawn, found, opened, settle
from unkelt.app import stepping
from unkelt.desk.common.bars import Card, RecipeStrip
from unkelt.desk.common.drawing import Lens
from unkelt.desk.common.theme import DARK, LIGHT, THEME, tick
from unkelt.desk.views import View
from unkelt.job.ticket import read_ticket
from unkelt.proof.proof import prove
from unkelt.steps.cures import cures_of
from unkelt.steps.steps import STEPS
from unkelt.survey.finding import Level


def test_the_whole_way_by_clicks_and_keys(qtbot, desk, quay, tmp_path, monkeypatch):
    """Open, survey, step by step, undo and redo, save, read back."""
    source, out = quay / "sea-thrift.svg", tmp_path / "out.svg"
    original = source.read_bytes()
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(source)], ""))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))

    qtbot.keyClick(desk, Qt.Key.Key_O, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    assert found(desk) == ["text.live", "size.frame"]
    assert desk.room.head.verdict.verdict.words == "On hold: 1 to mend"
    assert desk.room.inspecting.panel.headline.text() == "“Sea Thrift” is live text"
    assert desk.room.inspecting.panel.after.drawing is not None  # the loupe shows what outlining would give
    assert {
        c.text() for c in desk.room.inspecting.panel.figures.findChildren(type(desk.room.inspecting.panel.headline))
    } >= {"texts", "1", "0"}

    qtbot.mouseClick(desk.room.inspecting.panel.here, Qt.MouseButton.LeftButton)  # outline-text
    settle(qtbot, desk)
    assert {"overlap.items", "compound.loose", "size.off-ticket"} <= set(found(desk))
    for key, code in ((Qt.Key.Key_Z, "text.live"), (Qt.Key.Key_Y, "overlap.items")):  # undo, redo
        qtbot.keyClick(desk, key, Qt.KeyboardModifier.ControlModifier)
        settle(qtbot, desk)
        assert code in found(desk)

    for code in ("overlap.items", "compound.loose", "size.off-ticket"):
        for _ in range(len(desk.state.findings)):  # by the key to the finding wanted
            if desk.state.findings[desk.state.chosen].code == code:
                break
            qtbot.keyClick(desk, Qt.Key.Key_J)
        settle(qtbot, desk)
        assert desk.state.findings[desk.state.chosen].code == code
        if code == "overlap.items":
            qtbot.mouseClick(desk.room.inspecting.panel.alike, Qt.MouseButton.LeftButton)
        else:
            qtbot.keyClick(desk, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        settle(qtbot, desk)
        assert code not in found(desk)
    assert found(desk) == []
    assert desk.room.head.verdict.verdict.state == "open"

    qtbot.keyClick(desk, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    assert desk.room.head.verdict.verdict.words == "Clean and read back"
    assert desk.room.inspecting.panel.headline.text() == "Read back: clean"
    assert source.read_bytes() == original
    assert prove(out, read_ticket(quay / "sea-thrift.toml")).verdict == "clean"

    qtbot.keyClick(desk, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    assert desk.room.head.verdict.verdict.state == "hold"  # what was proven is not what stands now


def test_everything_safe_at_once_and_looking_back(qtbot, desk, quay):
    opened(qtbot, desk, quay / "kittiwake.svg")
    assert len(desk.state.findings) == 6
    qtbot.mouseClick(desk.room.inspecting.docket.mend, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    assert found(desk) == []
    names = [call.name for call in desk.state.job.recipe.calls]
    assert names == ["drop-duplicate", "weld", "join-ends", "weld", "bind", "resize", "reduce-nodes"]
    qtbot.keyClick(desk, Qt.Key.Key_B)
    settle(qtbot, desk)
    assert desk.state.job.looking_at == 0
    assert len(desk.state.findings) == 6
    assert not desk.room.inspecting.panel.here.isEnabled()  # an earlier state is looked at, not mended
    qtbot.keyClick(desk, Qt.Key.Key_N)
    settle(qtbot, desk)
    assert found(desk) == []


def test_the_current_step_is_in_view_however_late_the_strip_gets_its_size(qtbot):
    strip = RecipeStrip()
    qtbot.addWidget(strip)
    strip.show()
    strip.show_stages([(f"Step {number}", "one outline", "") for number in range(12)], 11, None)
    for width in (900, 500):
        strip.resize(width, strip.height())
        (current,) = (card for card in strip.findChildren(Card) if card.current)
        qtbot.waitUntil(lambda card=current: card.visibleRegion().boundingRect().width() == card.width())


def test_a_mark_on_the_table_is_a_way_to_its_finding(qtbot, desk, quay):
    opened(qtbot, desk, quay / "kittiwake.svg")
    wanted = found(desk).index("path.open")
    x, y = desk.room.inspecting.table.marked.places(wanted, desk.room.inspecting.table.view)[0]
    qtbot.mouseClick(desk.room.inspecting.table, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(y)))
    assert desk.state.chosen == wanted
    settle(qtbot, desk)
    choice = desk.room.inspecting.panel.findChild(QComboBox)
    assert [choice.itemText(n) for n in range(choice.count())] == ["Join the ends", "Close with a line"]
    choice.setCurrentIndex(1)
    settle(qtbot, desk)
    assert desk.state.preview.call.name == "close-subpath"


def test_options_of_a_step_change_its_preview_and_bad_ones_are_said(qtbot, desk, quay):
    opened(qtbot, desk, quay / "kittiwake.svg")
    desk.state.surveying.choose(found(desk).index("nodes.excess"))
    settle(qtbot, desk)
    before = desk.state.preview.outcome.evidence.nodes_after
    line = desk.room.inspecting.panel.options.findChild(QLineEdit)
    qtbot.keyClicks(line, "0.2 mm")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    settle(qtbot, desk)
    assert desk.state.preview.outcome.evidence.nodes_after < before
    line.setText("far")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    settle(qtbot, desk)
    assert "is not a number" in desk.state.preview.refusal
    assert not desk.room.inspecting.panel.here.isEnabled()


def test_wheel_keys_and_dragging_move_the_view(qtbot, desk, quay):
    opened(qtbot, desk, quay / "berth-12.svg")
    start = desk.room.inspecting.table.view.scale
    qtbot.keyClick(desk, Qt.Key.Key_Plus)
    assert desk.room.inspecting.table.view.scale == pytest.approx(1.25 * start)
    before = desk.room.inspecting.table.view.x
    qtbot.mousePress(desk.room.inspecting.table, Qt.MouseButton.LeftButton, pos=QPoint(300, 200))
    qtbot.mouseMove(desk.room.inspecting.table, QPoint(340, 200))
    from PySide6.QtGui import QMouseEvent

    move = QMouseEvent(
        QMouseEvent.Type.MouseMove, QPointF(360, 200), desk.room.inspecting.table.mapToGlobal(QPointF(360, 200)),
        Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier,
    )  # fmt: skip
    desk.room.inspecting.table.mouseMoveEvent(move)
    qtbot.mouseRelease(desk.room.inspecting.table, Qt.MouseButton.LeftButton, pos=QPoint(360, 200))
    assert desk.room.inspecting.table.view.x < before
    qtbot.keyClick(desk, Qt.Key.Key_0)
    assert desk.room.inspecting.table.view.scale == pytest.approx(start)


def test_lenses_draw_different_pictures(qtbot, desk, quay):
    opened(qtbot, desk, quay / "kittiwake.svg")
    pictures = set()
    for key, lens in (
        (Qt.Key.Key_1, Lens.INK),
        (Qt.Key.Key_2, Lens.BLADE),
        (Qt.Key.Key_3, Lens.BURN),
        (Qt.Key.Key_4, Lens.NODES),
    ):
        qtbot.keyClick(desk, key)
        assert desk.room.inspecting.table.lens is lens
        drawn(qtbot, desk)
        image = desk.room.inspecting.table.grab().toImage()
        pictures.add(bytes(image.constBits()))
    assert len(pictures) == 3


def test_several_files_are_kept_side_by_side(qtbot, desk, quay):
    opened(qtbot, desk, quay / "sea-thrift.svg", quay / "kittiwake.svg")
    desk.room.inspecting.apply_here()
    settle(qtbot, desk)
    desk.state.on_desk.bring_forward(1)
    settle(qtbot, desk)
    assert desk.state.job.title == "Kittiwake transom"
    assert not desk.state.job.stages
    desk.state.on_desk.bring_forward(0)
    settle(qtbot, desk)
    assert len(desk.state.job.stages) == 1


def test_dropping_files_opens_them(qtbot, desk, quay):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(quay / "berth-12.svg"))])
    where = QPoint(600, 400)
    buttons, keys = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", DeprecationWarning)  # from 6.12 on it takes places of another kind
        enter = QDragEnterEvent(where, Qt.DropAction.CopyAction, data, buttons, keys)
    desk.dragEnterEvent(enter)
    assert enter.isAccepted()
    desk.dropEvent(QDropEvent(QPointF(where), Qt.DropAction.CopyAction, data, buttons, keys))
    settle(qtbot, desk)
    assert desk.state.job.title == "Berth tag 12"
    assert found(desk) == []


@pytest.mark.parametrize("content", [b"", b"not xml", b"<svg", None])
def test_bad_files_are_said_and_the_window_goes_on(qtbot, desk, quay, tmp_path, content):
    bad = tmp_path / "bad.svg"
    if content is not None:
        bad.write_bytes(content)
    opened(qtbot, desk, bad, quay / "berth-12.svg")
    assert desk.message.isVisible()
    assert "bad.svg" in desk.message.words.text()
    assert desk.state.job.title == "Berth tag 12"
    qtbot.keyClick(desk, Qt.Key.Key_Escape)
    assert not desk.message.isVisible()


def test_saving_over_the_original_is_refused_in_a_sentence(qtbot, desk, quay):
    opened(qtbot, desk, quay / "berth-12.svg")
    desk.state.handing.save_to(quay / "berth-12.svg")
    settle(qtbot, desk)
    assert "never written over" in desk.message.words.text()
    assert not desk.state.job.saved


def test_a_fault_in_a_step_is_said_and_changes_nothing(qtbot, desk, quay, monkeypatch, capsys):
    opened(qtbot, desk, quay / "sea-thrift.svg")

    def broken(*_):
        raise RuntimeError("out of ink")

    monkeypatch.setattr(stepping, "mend", broken)
    qtbot.keyClick(desk, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    assert "Unkelt has a fault; nothing was changed: RuntimeError: out of ink" in desk.message.words.text()
    assert not desk.state.job.stages
    assert "out of ink" in capsys.readouterr().err


def test_work_can_be_stopped(qtbot, desk, quay):
    desk.state.opening.open_paths([quay / "kittiwake.svg"])
    assert desk.bench.is_busy()
    qtbot.waitUntil(lambda: desk.state.job is not None)
    assert desk.bench.is_busy()
    qtbot.keyClick(desk, Qt.Key.Key_Escape)
    assert not desk.bench.is_busy()
    assert desk.room.inspecting.docket.summary.text() == "Stopped"
    desk.state.on_desk.bring_forward(0)
    settle(qtbot, desk)
    assert len(desk.state.findings) == 6


def test_closing_with_steps_that_are_not_saved_asks(qtbot, desk, quay, monkeypatch):
    opened(qtbot, desk, quay / "sea-thrift.svg")
    desk.room.inspecting.apply_here()
    settle(qtbot, desk)
    asked = []
    monkeypatch.setattr(QMessageBox, "question", lambda *a: asked.append(a[2]) or QMessageBox.StandardButton.Cancel)
    assert not desk.close()
    assert "Sea Thrift transom" in asked[0]
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Discard)
    assert desk.close()


def test_dark_and_back_keeps_the_job_and_what_was_looked_at(qtbot, desk, quay, tmp_path):
    opened(qtbot, desk, quay / "sea-thrift.svg")
    desk.room.inspecting.apply_here()
    settle(qtbot, desk)
    qtbot.keyClick(desk, Qt.Key.Key_J)
    settle(qtbot, desk)
    chosen = desk.state.finding
    desk.room.looking.lens_nodes()
    room, light = desk.room, drawn(qtbot, desk).toImage()
    qtbot.keyClick(desk, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    assert THEME.palette is DARK
    assert desk.room is room  # no part is made anew
    dark = drawn(qtbot, desk).toImage()
    for x, y in ((640, 40), (150, 600), (1100, 400), (640, 200)):  # rows, docket, panel, table
        assert light.pixelColor(x, y).lightness() > 150 > dark.pixelColor(x, y).lightness()
    assert len(desk.state.job.stages) == 1
    assert "overlap.items" in found(desk)
    assert desk.state.finding == chosen
    assert desk.room.inspecting.panel.headline.text() == chosen.headline
    assert desk.room.inspecting.table.lens is Lens.NODES
    desk.state.handing.save_to(tmp_path / "out.svg")
    settle(qtbot, desk)
    read_back = desk.room.inspecting.panel.headline.text()
    assert read_back.startswith("Read back")
    desk.turn_to(View.PROOF)
    settle(qtbot, desk)
    THEME.take(LIGHT)
    settle(qtbot, desk)
    assert desk.view.name == "PROOF"
    desk.turn_to(View.INSPECT)
    assert desk.room.inspecting.panel.headline.text() == read_back
    desk.room.looking.look_original()  # the proof is of another state
    settle(qtbot, desk)
    THEME.take(DARK)
    settle(qtbot, desk)
    assert desk.room.inspecting.panel.headline.text() == desk.state.finding.headline
    THEME.take(LIGHT)
    settle(qtbot, desk)


def test_the_demonstration_is_opened_from_the_menu_and_what_somebody_did_to_it_stays(
    qtbot, desk, tmp_path, monkeypatch
):
    monkeypatch.setenv("XDG_DOCUMENTS_DIR", str(tmp_path))
    (tmp_path / "Hollin Quay").mkdir()
    own = tmp_path / "Hollin Quay" / "berth-tag-recipe.toml"
    own.write_text("# my own\n")
    desk.room.filing.open_demo()
    settle(qtbot, desk)
    assert len(desk.state.jobs) == 14
    assert desk.state.findings is not None
    assert own.read_text() == "# my own\n"
    assert str(tmp_path / "Hollin Quay") in " ".join(part.text() for part in desk.room.message.findChildren(QLabel))


def test_intake_shows_what_came_in_and_the_units_can_be_stated(qtbot, desk, tmp_path):
    path = tmp_path / "tern.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="595" height="842"><rect width="72" height="72"/><use href="#no"/>'
        '<text y="99" font-family="Quayside Script">Tern</text></svg>'
    )
    opened(qtbot, desk, path)
    qtbot.keyClick(desk, Qt.Key.Key_1, Qt.KeyboardModifier.ControlModifier)
    assert desk.room.pages.currentWidget() is desk.room.intake
    settle(qtbot, desk)
    words = " ".join(part.text() for part in desk.room.intake.findChildren(QLabel))
    for said in (
        "none given",
        "at 72 units to the inch the page is A4",
        "Quayside Script",
        "nothing is put in its place",
        "leads nowhere",
    ):
        assert said in words
    assert desk.room.intake.units.currentData() == "72 to the inch"
    state = next(b for b in desk.room.intake.findChildren(QPushButton) if b.text() == "State the units")
    qtbot.mouseClick(state, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    assert desk.state.job.sheet.page_mm == pytest.approx((209.9, 297.0), abs=0.1)
    assert "size.units" not in found(desk)
    qtbot.keyClick(desk, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    assert desk.view.name == "INSPECT"


def luminance(value: str) -> float:
    """Relative luminance, WCAG 2.1 definition."""
    channels = [int(value[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=["light", "dark"])
@pytest.mark.parametrize(
    ("ink", "paper"),
    [
        ("text", "panel"), ("text", "raised"), ("muted", "panel"), ("muted", "raised"), ("muted", "table"), ("text", "table"),
        ("accent", "panel"), ("accent", "accent_soft"), ("muted", "accent_soft"), ("on_accent", "accent"), ("hold", "hold_soft"),
        ("hold", "panel"), ("hold", "page"), ("hold", "table"), ("warn", "panel"), ("note", "panel"), ("text", "hold_soft"),
    ],
)  # fmt: skip
def test_contrast_by_wcag_aa(palette, ink, paper):
    """WCAG 2.1, 1.4.3: at least 4.5 to 1 for text."""
    a, b = sorted((luminance(getattr(palette, ink)), luminance(getattr(palette, paper))), reverse=True)
    assert (a + 0.05) / (b + 0.05) >= 4.5


def test_a_misspelt_name_is_put_right_after_it_was_outlined(desk, qtbot, quay):
    """Compose: back from the outlines to the text, another wording, and every later step is taken again."""
    opened(qtbot, desk, quay / "sea-thrift.svg")
    qtbot.keyClick(desk, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    steps = [stage.call.name for stage in desk.state.job.stages]
    qtbot.keyClick(desk, Qt.Key.Key_3, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    assert desk.room.compose.items.model().index(0, 1).data() == "“Sea Thrift”"
    assert desk.room.compose.table.hand.framed.box is not None
    qtbot.mouseClick(desk.room.compose.back, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    assert desk.state.job.looking_at == 0
    assert desk.room.compose.card.name == "set-text"
    field = desk.room.compose.options.control("text")
    field.selectAll()
    qtbot.keyClicks(field, "Sea Swift")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    settle(qtbot, desk)
    job = desk.state.job
    assert [stage.call.name for stage in job.stages] == ["set-text", *steps]
    assert [item.letters for item in job.sheet.outlines()] == ["SeaSwift"]
    assert desk.room.compose.box.fields["w"].text() == "900 mm"


def test_thicken_from_the_ledger_is_previewed_and_refused_with_a_reason(desk, qtbot, quay):
    opened(qtbot, desk, quay / "berth-12.svg")
    desk.turn_to(View.COMPOSE)
    desk.room.compose.choose(1)
    desk.room.composer.set_step("thicken")
    field = desk.room.compose.options.control("amount")
    field.setText("-30")
    field.editingFinished.emit()
    settle(qtbot, desk)
    assert not desk.room.compose.card.apply.isEnabled()
    field.setText("0.2")
    field.editingFinished.emit()
    settle(qtbot, desk)
    assert desk.room.compose.card.apply.isEnabled()
    assert desk.room.composer.call().options == {"amount": "0.2 mm"}


def test_a_step_on_the_strip_is_changed_moved_and_taken_out_by_key(desk, qtbot, quay, monkeypatch):
    opened(qtbot, desk, quay / "sea-thrift.svg")
    qtbot.keyClick(desk, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    names = [stage.call.name for stage in desk.state.job.stages]
    place = names.index("resize")
    desk.room.looking.look_at(place + 1)

    qtbot.keyClick(desk, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    card = desk.room.compose.card
    assert (desk.room.view, card.name) == (View.COMPOSE, "resize")
    assert desk.state.job.looking_at == place  # on the sheet as it was before it
    states = [state for state in desk.room.strip.findChildren(Card) if state.isVisible()]
    assert [state.name for state in states if state.current] == [STEPS["resize"].title]
    assert len([state for state in states if state.later]) == len(names) - place - 1
    field = card.options.control("width")
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "450")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    settle(qtbot, desk)
    job = desk.state.job
    assert job.stages[place].call.options == {"width": "450 mm"}
    desk.activateWindow()
    qtbot.waitUntil(desk.isActiveWindow)
    assert [stage.call.name for stage in job.stages] == names
    assert desk.state.job.sheet.drawn_box()[2] - desk.state.job.sheet.drawn_box()[0] == pytest.approx(450, abs=0.5)
    desk.room.looking.look_at(1)  # outline-text later than the weld: what follows finds nothing to work on, and says so
    qtbot.keyClick(desk, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    settle(qtbot, desk)
    assert desk.state.job.stages[0].outcome is None
    assert desk.message.isVisible()
    qtbot.keyClick(desk, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    assert [stage.call.name for stage in desk.state.job.stages] == names
    desk.room.looking.look_at(place + 1)
    qtbot.keyClick(desk, Qt.Key.Key_Backspace, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    assert "resize" not in [stage.call.name for stage in desk.state.job.stages]


def test_released_from_the_window_with_a_reason_only_where_it_holds(desk, qtbot, quay, tmp_path, monkeypatch):
    asked = []
    monkeypatch.setattr(QInputDialog, "getText", lambda *words: (asked.append(words[2]) or "", False))
    opened(qtbot, desk, quay / "kittiwake.svg")
    qtbot.keyClick(desk, Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier)
    view = desk.room.releasing
    assert view.reason.isVisible()
    view.folder.setText(str(tmp_path / "out"))
    qtbot.mouseClick(view.release, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    assert "overlap.items" in asked[0]
    assert "Nothing was written" in desk.message.words.text()
    assert list((tmp_path / "out").iterdir()) == []
    qtbot.keyClicks(view.reason, "a sample for the wall")
    qtbot.mouseClick(view.release, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    assert len(asked) == 1
    assert desk.room.head.verdict.verdict.state == "hold"
    assert "a sample for the wall" in (tmp_path / "out" / "Kittiwake-transom-r1" / "inspection.html").read_text()
    opened(qtbot, desk, quay / "berth-12.svg")
    qtbot.keyClick(desk, Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier)
    assert not view.reason.isVisible()
    view.folder.setText(str(tmp_path / "out"))
    assert [box.isChecked() for box in view.destinations.values()] == [True] * 3
    view.each["operation"].setChecked(True)
    qtbot.mouseClick(view.release, Qt.MouseButton.LeftButton)
    assert "kinds of file" in view.written.findChildren(QLabel)[0].text()
    view.formats[".svg"].setChecked(True)
    view.zipped.setChecked(True)
    qtbot.mouseClick(view.release, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    package = tmp_path / "out" / "Berth-tag-12-r1"
    assert (package / "inspection.pdf").is_file()
    opens = []
    monkeypatch.setattr(QDesktopServices, "openUrl", lambda url: opens.append(url) or True)
    qtbot.mouseClick(view.to_folder, Qt.MouseButton.LeftButton)
    assert [url.toLocalFile() for url in opens] == [str(package)]
    monkeypatch.setattr(QDesktopServices, "openUrl", lambda _: False)  # nothing here shows folders
    shown = [part.text() for part in view.written.findChildren(QLabel)]
    qtbot.mouseClick(view.to_folder, Qt.MouseButton.LeftButton)
    assert QGuiApplication.clipboard().text() == str(package)
    assert str(package) in [part.text() for part in view.written.findChildren(QLabel)]
    assert (desk.room.head.verdict.verdict.words, desk.room.strip.saved.text()) == (
        "Clean and released",
        "released as Berth-tag-12-r1",
    )
    assert "inspection.pdf" in shown
    assert (package / "Berth-tag-12-engrave.svg").is_file()
    assert (package / "laser" / "Berth-tag-12.dxf").is_file()
    with zipfile.ZipFile(tmp_path / "out" / "Berth-tag-12-r1.zip") as packed:
        assert {f"Berth-tag-12-r1/{path.relative_to(package)}" for path in package.rglob("*") if path.is_file()} == set(
            packed.namelist()
        )


def test_the_proof_is_seen_as_different_importers_make_it_and_run_dry(desk, qtbot, quay):
    opened(qtbot, desk, quay / "berth-12.svg")
    qtbot.keyClick(desk, Qt.Key.Key_4, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    view = desk.room.proofing
    assert view.headline.text() == "The file imports as intended"
    view.importer.setCurrentIndex(view.importer.findText("72 to the inch"))
    settle(qtbot, desk)
    assert view.headline.text() == "The file imports differently"
    assert any("mm were meant" in words for words in view.found.differences)
    view.slider.setValue(250)
    assert view.read.running.seconds == pytest.approx(view.found.run.seconds / 4)
    qtbot.mouseClick(view.play, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: view.slider.value() > 300, timeout=10_000)
    qtbot.mouseClick(view.play, Qt.MouseButton.LeftButton)
    assert view.play.text() == "Run"


def test_a_finding_is_accepted_with_a_reason_and_kept_in_the_working_file(desk, qtbot, quay, tmp_path, monkeypatch):
    opened(qtbot, desk, quay / "kittiwake.svg")
    first = desk.state.finding
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("welded in the shop", True))
    qtbot.keyClick(desk, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    settle(qtbot, desk)
    kept = next(finding for finding in desk.state.findings if finding.key == first.key)
    assert (kept.level, kept.detail) == ("note", "accepted: welded in the shop")
    out = tmp_path / "kittiwake.unkelt"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    qtbot.keyClick(desk, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    opened(qtbot, desk, out)
    assert desk.state.job.saved_path == out
    assert any(finding.detail == "accepted: welded in the shop" for finding in desk.state.findings)


def test_a_thing_picked_on_the_table_leads_to_what_is_said_about_it(desk, qtbot, quay):
    opened(qtbot, desk, quay / "kittiwake.svg")
    finding = next(f for f in desk.state.findings if f.code == "nodes.excess")
    item = desk.state.job.sheet.find(finding.items[0])
    x, y = item.path.points[0, 0]
    at = QPoint(*(round(v + 26) for v in desk.room.inspecting.table.view.to_px(float(x), float(y))))
    numbers = {n for n, f in enumerate(desk.state.findings) if item.id in f.items}
    qtbot.mouseClick(desk.room.inspecting.table, Qt.MouseButton.LeftButton, pos=at)
    first = desk.state.chosen
    qtbot.mouseClick(desk.room.inspecting.table, Qt.MouseButton.LeftButton, pos=at)
    assert {first, desk.state.chosen} <= numbers or desk.state.chosen in numbers
    desk.turn_to(View.COMPOSE)
    settle(qtbot, desk)
    at = QPoint(*(round(v + 26) for v in desk.room.compose.table.view.to_px(float(x), float(y))))
    qtbot.mouseClick(desk.room.compose.table, Qt.MouseButton.LeftButton, pos=at)
    assert item.id in [entry.id for entry in desk.room.compose.chosen()]


def test_findings_are_filtered_and_the_keys_stay_among_them(desk, qtbot, quay):
    opened(qtbot, desk, quay / "parcel.svg")
    everything = desk.room.inspecting.docket.shown()
    assert desk.room.inspecting.docket.filters.isVisible()
    desk.room.inspecting.docket.level.setCurrentIndex(desk.room.inspecting.docket.level.findText("on hold"))
    holds = desk.room.inspecting.docket.shown()
    assert 0 < len(holds) < len(everything)
    for _ in range(len(holds) + 1):
        qtbot.keyClick(desk, Qt.Key.Key_J)
        assert desk.state.findings[desk.state.chosen].level is Level.HOLD
    desk.room.inspecting.docket.level.setCurrentIndex(0)
    word = desk.state.findings[-1].code.split(".")[1]
    qtbot.keyClicks(desk.room.inspecting.docket.word, word)
    assert 0 < len(desk.room.inspecting.docket.shown()) < len(everything)
    assert all(
        word in f"{desk.state.findings[n].headline} {desk.state.findings[n].code}".lower()
        for n in desk.room.inspecting.docket.shown()
    )


def test_both_loupes_move_together(desk, qtbot, quay):
    opened(qtbot, desk, quay / "kittiwake.svg")
    settle(qtbot, desk)
    before = desk.room.inspecting.panel.now.box
    desk.room.inspecting.panel.after.moved.emit(0.5, 0.0, 0.5)
    now = desk.room.inspecting.panel.now.box
    assert desk.room.inspecting.panel.after.box == now
    assert now[2] - now[0] == pytest.approx((before[2] - before[0]) / 2)
    assert now[0] + now[2] > before[0] + before[2]


@pytest.mark.parametrize("name", ["kittiwake", "sea-thrift", "port-arc", "fascia", "tags", "parcel"])
def test_every_finding_of_the_demonstration_is_walked_with_what_its_step_would_do(desk, qtbot, quay, name):
    """Between them these files hold every code: each shows its words, its mark and either a preview or a reason."""
    opened(qtbot, desk, quay / f"{name}.svg")
    settle(qtbot, desk)
    for _ in range(len(desk.state.findings)):
        settle(qtbot, desk)
        finding = desk.state.finding
        assert desk.room.inspecting.panel.headline.text() == finding.headline
        assert finding.box is None or desk.room.inspecting.table.marked.places(
            desk.state.chosen, desk.room.inspecting.table.view
        )
        if cures_of(finding):
            qtbot.waitUntil(lambda: desk.state.preview is not None, timeout=30_000)
            assert desk.state.preview.outcome or desk.state.preview.refusal
        else:
            assert not desk.room.inspecting.panel.buttons.isVisible()
        qtbot.keyClick(desk, Qt.Key.Key_J)


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=["light", "dark"])
def test_a_ticked_box_has_a_tick_in_the_colour_of_words_on_the_accent(palette):
    assert palette.on_accent in tick(palette).read_text()


def test_proof_shows_both_pictures_and_what_explains_each_difference(desk, qtbot, quay):
    opened(qtbot, desk, quay / "tags.svg")
    qtbot.keyClick(desk, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    qtbot.keyClick(desk, Qt.Key.Key_4, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    view = desk.room.proofing
    qtbot.mouseClick(view.turn, Qt.MouseButton.LeftButton)
    assert view.pair.isVisible()
    assert view.pair.places.count() == 2
    words = view.pair.places.item(0).text()
    assert "Explained: a wide cut line made a hairline" in words
    whole = view.pair.received.grab().toImage()
    view.pair.places.setCurrentRow(0)
    assert view.pair.received.grab().toImage() != whole  # it looks closer
    qtbot.mouseClick(view.pair.written, Qt.MouseButton.LeftButton)
    assert view.pair.received.grab().toImage() == whole
    view.pair.places.setCurrentRow(1)
    qtbot.mouseClick(view.turn, Qt.MouseButton.LeftButton)
    assert not view.pair.isVisible()
    opened(qtbot, desk, quay / "port-arc.svg")  # a job without a difference
    desk.turn_to(View.PROOF)
    settle(qtbot, desk)
    assert view.pair.places.count() == 0


def test_ink_that_was_lost_is_told_when_it_is_saved(desk, qtbot, quay, tmp_path, monkeypatch):
    """A step that lies: what it took is missed by the pictures, and the verdict holds."""
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "out.svg"), ""))
    opened(qtbot, desk, quay / "port-arc.svg")
    desk.state.stepping.mend_safe()
    settle(qtbot, desk)
    job = desk.state.job
    left = job.sheet.replaced({job.sheet.outlines()[1].id: ()})
    stage = replace(job.stages[-1], sheet=left, outcome=replace(job.stages[-1].outcome, sheet=left))
    desk.state.on_desk.change(replace(job, stages=(*job.stages[:-1], stage)))
    settle(qtbot, desk)
    qtbot.keyClick(desk, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    assert any(reason.startswith("ink.lost") for reason in desk.state.proof.reasons)
    assert "ink.lost" in found(desk)
