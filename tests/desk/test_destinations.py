"""Where a job goes, filled in and released to by clicks, and what would fall out held by bridges."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialogButtonBox, QLabel

from tests.desk.hands import found, opened, settle
from unkelt.desk.release.destination import DestinationDialog
from unkelt.desk.views import View
from unkelt.formats.formats import read_sheet
from unkelt.job.ticket import parse_ticket
from unkelt.session.destinations import Wanted, wanted, with_destination, without_destination

LEFT = Qt.MouseButton.LeftButton


def test_a_destination_is_filled_in_read_back_and_released_to(qtbot, desk, quay, tmp_path):
    opened(qtbot, desk, quay / "life-ring.svg")
    desk.turn_to(View.RELEASE)
    view = desk.room.releasing
    dialog = DestinationDialog(view, desk.state.job.ticket)
    qtbot.addWidget(dialog)
    dialog.show()
    take = dialog.findChild(QDialogButtonBox).button(QDialogButtonBox.StandardButton.Ok)
    qtbot.keyClicks(dialog.name, "office")
    qtbot.mouseClick(take, LEFT)
    assert "has a destination “office” already" in dialog.trouble.text()
    dialog.name.clear()
    qtbot.keyClicks(dialog.name, "second shop")
    dialog.reads.setCurrentIndex(dialog.reads.findData("ninety-six"))
    dialog.marks.setChecked(True)
    qtbot.mouseClick(take, LEFT)
    assert 'needs each = ["material"]' in dialog.trouble.text()
    dialog.each["material"].setChecked(True)
    qtbot.mouseClick(take, LEFT)
    assert not dialog.isVisible()
    view.ticket_made.emit(dialog.ticket)
    settle(qtbot, desk)
    names = [destination.name for destination in view.destinations]
    assert names == ["film plotter", "sign shop", "office", "second shop"]

    desk.turn_to(View.PROOF)
    settle(qtbot, desk)
    importer = desk.room.proofing.importer
    assert [importer.itemText(row) for row in range(4)] == names
    importer.setCurrentIndex(3)
    settle(qtbot, desk)
    assert "96 to the inch" in desk.room.proofing.says.text()

    desk.turn_to(View.RELEASE)
    for destination, box in view.destinations.items():
        box.setChecked(destination.name == "second shop")
    view.folder.setText(str(tmp_path / "out"))
    view.reason.setText("to see where it goes")
    qtbot.mouseClick(view.release, LEFT)
    settle(qtbot, desk)
    folder = tmp_path / "out" / "Life-ring-cover-r1" / "second-shop"
    assert [path.name for path in folder.iterdir()] == ["Life-ring-cover-0b5d4c-cut.svg"]


def test_the_ticket_keeps_what_the_form_does_not_know():
    kept = parse_ticket("[destination.shop] # theirs\nmost_nodes = 7\n")
    ticket = with_destination(kept, Wanted("shop", "svg", "strict", ("operation",)), "shop")
    assert "most_nodes = 7" in ticket.source
    assert wanted(ticket, "shop") == Wanted("shop", "svg", "strict", ("operation",))
    assert ticket.destinations[0].habits.most_nodes == 7
    assert without_destination(ticket, "shop").destinations == ()


def test_a_piece_that_would_fall_out_is_held_by_bridges(qtbot, desk, quay, tmp_path):
    opened(qtbot, desk, quay / "porthole.svg")
    assert found(desk) == ["piece.unheld"]
    desk.turn_to(View.PROOF)
    settle(qtbot, desk)
    lines = [label.text() for label in desk.room.proofing.held.findChildren(QLabel)]
    assert "“7”: nothing, loose in “Ring”" in lines
    desk.turn_to(View.INSPECT)
    settle(qtbot, desk)
    panel = desk.room.inspecting.panel
    assert panel.headline.text() == "A piece that nothing holds"
    qtbot.mouseClick(panel.here, LEFT)
    settle(qtbot, desk)
    assert desk.state.job.stages[-1].call.name == "bridge"
    assert found(desk) == []
    desk.state.handing.save_to(tmp_path / "out.svg")
    settle(qtbot, desk)
    assert len(read_sheet(tmp_path / "out.svg").outlines()) == 1
