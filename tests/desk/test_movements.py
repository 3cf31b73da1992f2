"""How many movements of a hand a job takes, from an open file to a released package: never more than its budget.

Done on the real window, by what a person sees; common practice, no source, is what the jobs are.
"""

import pytest
from PySide6.QtCore import QPoint, Qt

from tests.desk.hands import opened
from tests.desk.person import CTRL, Person
from unkelt.geometry.measure import bounds, join_boxes
from unkelt.sheet.model import Lettering

KEY = '[key]\ncut = ["#cc0000", "#0000cc", "#00aa44"]\nengrave = ["#000000"]\n'
PAGE = 'xmlns="http://www.w3.org/2000/svg" width="400mm" height="260mm" viewBox="0 0 400 260"'


def text(x, y, size, words, family="Pacifico", fill="#cc0000", name="t"):
    return f'<text id="{name}" x="{x}" y="{y}" font-family="{family}" font-size="{size}" fill="{fill}">{words}</text>'


@pytest.fixture
def begin(qtbot, desk, tmp_path, monkeypatch):
    """Opens a drawing; what is on hold at its release fails the job."""
    monkeypatch.setattr(desk.room.filing, "ask_reason", lambda holds: pytest.fail(f"on hold: {holds}"))
    desk.resize(1280, 800)

    def with_art(art, ticket=KEY):
        (tmp_path / "job.svg").write_text(f"<svg {PAGE}>{art}</svg>")
        (tmp_path / "job.toml").write_text(ticket)
        opened(qtbot, desk, tmp_path / "job.svg")
        return Person(qtbot, desk)

    return with_art


def released(person, most):
    person.release()
    job = person.desk.state.job
    assert job.released_as is not None, person.said()
    assert not any(each.level == "hold" for each in person.desk.state.findings), person.said()
    print(person.moves, "of", most)
    assert person.moves <= most
    return job


def names(job):
    return [stage.call.name for stage in job.stages]


def box(job, *ids):
    return join_boxes([bounds(job.sheet.find(each).path) for each in ids])


def test_a_script_word_is_outlined_welded_bound_on_its_page_and_released(begin):
    person = begin(text(20, 150, 110, "Sea Thrift"))
    person.mend()
    person.to_the_bench()
    person.step("Fit the page")
    person.apply()
    job = released(person, 8)
    assert len(job.sheet.outlines()) == 1
    assert job.sheet.page_mm[0] == pytest.approx(bounds(job.sheet.outlines()[0].path)[2] + 5, abs=0.01)


def test_a_word_on_a_circle_and_a_second_below_in_the_same_band(begin):
    person = begin(text(120, 60, 30, "HOLLIN", "Barlow") + text(120, 220, 30, "QUAY", "Barlow", name="u"))
    person.to_the_bench()
    person.on("HOLLIN")
    person.step("Set on a circle or path")
    person.fill(person.option("radius"), "70")
    person.on("QUAY")
    person.step("Set on a circle or path")
    person.apply()
    person.key(Qt.Key.Key_A, CTRL)
    person.step("Set the spacing")
    person.fill(person.option("letters"), "2")
    person.mend()
    job = released(person, 18)
    assert names(job)[:3] == ["set-on-guide", "set-on-guide", "set-spacing"]
    x0, y0, x1, y1 = job.sheet.drawn_box()
    assert (x1 - x0) / (y1 - y0) < 1.2  # one ring: above and below


def test_a_name_is_cut_out_of_a_big_letter_with_room_around_it_on_two_films_mirrored(begin):
    big = text(100, 230, 300, "H", "Alfa Slab One")
    person = begin(big + text(150, 145, 40, "Tern", "Pacifico", "#0000cc", "u"), KEY + "[job]\nmirrored = true\n")
    person.mend()
    person.to_the_bench()
    person.on("Tern")
    person.step("Knock out of another outline")
    person.at(128, 60)
    person.click(person.option("beside"), QPoint(12, 10))
    person.fill(person.option("clearance"), "1/8 in")
    person.key(Qt.Key.Key_Escape)
    person.step("Mirror")
    person.apply()
    person.step("Fit the page")
    person.apply()
    person.mend()
    person.key(Qt.Key.Key_R, CTRL)
    person.moves -= 1  # pressed again to release
    person.click(person.desk.room.releasing.each["material"], QPoint(10, 10))
    job = released(person, 30)
    assert {o.look.colour for o in job.sheet.outlines()} == {"#cc0000", "#0000cc"}


FRAME = (
    '<g fill="none" stroke="#cc0000" stroke-width="0.1"><rect x="20" y="60" width="360" height="120"/>'
    '<rect x="30" y="70" width="340" height="100"/></g>'
)


def test_a_name_is_let_into_a_frame_of_closed_lines(begin):
    person = begin(FRAME + text(60, 175, 90, "HULL", "Barlow"))
    person.mend()
    person.to_the_bench()
    person.on("HULL")
    person.step("Let into a frame")
    person.at(100, 60)
    person.apply()
    person.mend()
    job = released(person, 14)
    assert "let-in" in names(job)


def test_two_names_are_let_into_a_round_frame_and_all_is_held(begin):
    ring = '<path fill="#cc0000" fill-rule="evenodd" d="M200 10a120 120 0 1 0 .1 0zM200 22a108 108 0 1 1 -.1 0z"/>'
    words = text(130, 120, 34, "HOLLIN", "Barlow") + text(150, 180, 34, "QUAY", "Barlow", name="u")
    person = begin(ring + words)
    person.mend()
    person.to_the_bench()
    for name in ("HOLLIN", "QUAY"):
        person.on(name)
        person.fill(person.compose.box.fields["w"], "212")
        person.fill(person.compose.box.fields["x"], "94")
    person.mend()
    job = released(person, 20)
    assert len(job.sheet.outlines()) == 1


def test_a_word_gets_two_backings_in_other_colours_a_ring_and_their_order(begin):
    person = begin(text(100, 150, 100, "Tern"))
    person.mend()
    person.to_the_bench()
    for colour in ("#0000cc", "#00aa44"):
        person.step("Add a backing")
        person.listed(person.option("colour"), colour)
        person.apply()
    lowest = person.desk.state.job.sheet.outlines()[0]
    x0, _, _, _ = bounds(lowest.path)
    row = next(
        r
        for r in range(person.compose.items.model().rowCount())
        if "Backing 2" in str(person.compose.items.model().index(r, 1).data())
    )
    at = person.compose.items.visualRect(person.compose.items.model().index(row, 1)).center()
    person.click(person.compose.items.viewport(), at)
    person.step("Add a ring to hang it from")
    person.apply()
    person.key(Qt.Key.Key_BracketLeft, CTRL)
    job = released(person, 16)
    assert [o.look.colour for o in job.sheet.outlines()] == ["#00aa44", "#0000cc", "#cc0000"]
    assert x0 < bounds(job.sheet.outlines()[-1].path)[0] - 6


def test_a_phrase_with_other_letterforms_bolder_and_with_a_piece_attached(begin):
    person = begin(text(40, 150, 70, "Sea Thrift"))
    person.to_the_bench()
    for letter, form in ((4, "final form"), (5, "final form")):
        person.step("Kern, move or swap letters")
        person.picture(person.compose.options.letters, letter)
        person.picture(person.compose.options.forms, form)
        person.apply()
    person.mend()
    person.step("Make bolder or thinner")
    person.fill(person.option("amount"), "0.6")
    person.step("Add a ring to hang it from")
    person.apply()
    person.mend()
    job = released(person, 20)
    assert {"set-letters", "thicken", "hang-ring"} <= set(names(job))


def test_three_lines_are_taken_apart_and_a_letter_is_moved_turned_and_coloured(begin):
    lines = "".join(
        f'<tspan x="40" y="{y}">{words}</tspan>' for y, words in ((60, "SEA"), (110, "THRIFT"), (160, "QUAY"))
    )
    person = begin(f'<text font-family="Barlow" font-weight="700" font-size="40" fill="#cc0000">{lines}</text>')
    person.to_the_bench()
    person.step("Set the spacing")
    person.fill(person.option("lines"), "60")
    person.step("Split text")
    person.segment("by", "letters")
    person.apply()
    sheet = person.desk.state.job.sheet
    letters = {item.text: item for item in sheet.letterings() if isinstance(item, Lettering)}
    assert len(letters) >= 10
    entry = next(each for each in person.compose.entries if each.name == "“Q”")
    x0, y0, _, y1 = entry.box
    person.drag((x0 + 2.5, (y0 + y1) / 2), (x0 + 122.5, (y0 + y1) / 2))
    grip = person.grip("turn")
    person.drag(grip, grip + person.px(60, 0) - person.px(0, 0))
    person.colour(person.compose.box.paint, "#0000cc")
    person.mend()
    person.key(Qt.Key.Key_R, CTRL)
    person.moves -= 1  # pressed again to release
    for ending, box in person.desk.room.releasing.formats.items():  # in others letters apart are no word
        if ending != ".svg":
            person.click(box, QPoint(10, box.height() // 2))
    job = released(person, 20)
    assert {"move", "rotate", "set-colour"} <= set(names(job))


def test_two_words_are_joined_by_hand_at_one_joint(begin):
    person = begin(text(30, 120, 80, "Sea") + text(230, 190, 80, "nets", name="u"))
    person.mend()
    person.to_the_bench()
    entry = next(each for each in person.compose.entries if "nets" in each.name)
    sea = next(each for each in person.compose.entries if "Sea" in each.name)
    start = entry.box[0] + 6, entry.box[3] - 10
    left, up = entry.box[0] - sea.box[2] + 9, entry.box[3] - sea.box[3]
    person.drag(start, (start[0] - left, start[1] - up))
    person.key(Qt.Key.Key_A, CTRL)
    person.step("Weld")
    person.apply()
    person.mend()
    job = released(person, 9)
    assert "weld" in names(job)[names(job).index("move") :]


def test_an_engraved_word_gets_a_cut_line_around_it(begin):
    person = begin(text(100, 150, 80, "Tern", fill="#000000"))
    person.mend()
    person.to_the_bench()
    person.step("Add a backing")
    person.fill(person.option("distance"), "0.1 in")
    job = released(person, 10)
    line, word = job.sheet.outlines()
    assert (line.look.stroke, word.look.fill) == ("#cc0000", "#000000")
    assert bounds(word.path)[0] - bounds(line.path)[0] == pytest.approx(2.54, abs=0.02)


def test_a_word_in_capitals_is_three_inches_high_by_its_ink(begin):
    person = begin(text(20, 150, 50, "HOLLIN", "Barlow"))
    person.to_the_bench()
    person.fill(person.compose.box.fields["h"], "3 in")
    person.mend()
    job = released(person, 6)
    _, y0, _, y1 = job.sheet.drawn_box()
    assert y1 - y0 == pytest.approx(76.2, abs=0.01)


def test_a_logo_is_engraved_with_a_cut_border_inside_the_page(begin):
    logo = '<path fill="#000000" d="M150 100h60v60h-60z"/><circle cx="250" cy="130" r="30" fill="#000000"/>'
    person = begin(logo)
    person.to_the_bench()
    person.key(Qt.Key.Key_A, CTRL)
    person.step("Add a border")
    person.apply()
    job = released(person, 9)
    x0, y0, x1, y1 = job.sheet.drawn_box()
    assert x0 > 0
    assert y0 > 0
    assert (x1, y1) < job.sheet.page_mm
    assert job.sheet.outlines()[0].look.stroke == "#cc0000"
