"""The list of faces: families, marks, what was used last, what is looked for, and that what is picked is what is set."""

import pytest

from tests.builders import lettering, sheet
from tests.lettering.faces import shelf_of_many
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.kinds import Kind
from unkelt.lettering.setting import set_lettering
from unkelt.recipe import Call, apply
from unkelt.session.face_list import FaceBook, FaceRows, Wanted, options_for
from unkelt.session.offers import Offers
from unkelt.session.sentences import given_value
from unkelt.steps.steps import STEPS

SHELF = shelf_of_many()
FACES = Offers(SHELF).faces


def families(wanted=None, book=None, opened=()):
    return [row.face.family for row in FaceRows(FACES, wanted or Wanted(), book or FaceBook(), opened).rows()]


def test_families_stand_together_marked_and_lately_used_ones_first():
    assert families() == sorted({face.family for face in SHELF.faces}, key=str.casefold)
    book = FaceBook().turned("Vollkorn").used("Arvo").used("Pacifico")
    assert families(book=book)[:4] == ["Vollkorn", "Pacifico", "Arvo", "Alfa Slab One"]
    assert families(book=book.turned("Vollkorn"))[:2] == ["Pacifico", "Arvo"]
    rows = FaceRows(FACES, opened=["Barlow"]).rows()
    mine = [row for row in rows if row.face.family == "Barlow"]
    assert [row.face.weight for row in mine] == [400, 500, 600, 700]
    assert [row.leads for row in mine] == [True, False, False, False]
    assert mine[0].of_family == 4


@pytest.mark.parametrize(
    ("wanted", "some", "none"),
    [
        (Wanted(kind=Kind.SCRIPT), {"Pacifico", "Lobster Two"}, {"Barlow", "Arvo"}),
        (Wanted(kind=Kind.SLAB), {"Arvo", "Alfa Slab One"}, {"Vollkorn", "Barlow"}),
        (Wanted(weight="light"), {"Cantarell"}, {"Pacifico", "Barlow"}),
        (Wanted(weight="bold"), {"Barlow", "Dancing Script"}, {"Pacifico"}),
        (Wanted(name="two lob"), {"Lobster Two"}, {"DejaVu Sans"}),
        (Wanted(business=True), {"Barlow", "EB Garamond"}, set()),
        (Wanted(width="wide"), set(), {"Barlow"}),
    ],
)
def test_faces_are_looked_for_by_what_people_know_of_them(wanted, some, none):
    found = set(families(wanted))
    assert some <= found
    assert not none & found


def test_marks_are_kept_and_damage_to_them_does_no_harm(tmp_path):
    path = tmp_path / "unkelt" / "faces.toml"
    FaceBook.read(path).turned("Arvo").used("Barlow")
    again = FaceBook.read(path)
    assert (again.marked, again.recent) == (("Arvo",), ("Barlow",))
    for rubbish in ("marked = 3", "{", 'recent = [1, "Arvo"]'):
        path.write_text(rubbish)
        assert FaceBook.read(path).marked == ()


@pytest.mark.parametrize("face", SHELF.faces, ids=lambda face: face.name)
def test_what_is_picked_is_what_is_set(face):
    text = lettering("Quay", "Arvo" if face.family == "Pacifico" else "Pacifico", 20)
    fields = {parameter.name: parameter for parameter in STEPS["set-face"].parameters}
    given = {name: value for name, value in options_for(face, SHELF).items() if value}
    options = {name: given_value(fields[name], value) for name, value in given.items()}
    after = apply(Call("set-face", ("name",), options=options), sheet(text), Workshop(Ticket(), SHELF)).sheet
    assert {glyph.face for glyph in set_lettering(after.find("name"), SHELF).glyphs} == {face}
