"""What is said of faces for people who choose one, and variable faces at any place of their axes."""

from dataclasses import replace

import pytest

from tests.builders import lettering, sheet
from tests.lettering.faces import shelf_of_many
from tests.lettering.test_shelf import variable
from unkelt.errors import StepRefused
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.measure import bounds
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf, axes_of
from unkelt.lettering.index import faces_in
from unkelt.lettering.kinds import Kind, kind_of
from unkelt.lettering.licence import Use, use_of
from unkelt.lettering.setting import set_lettering
from unkelt.outgoing import outgoing, outlined_to_save
from unkelt.recipe import Call, apply
from unkelt.sheet.model import FaceQuery

KINDS = {
    "Alfa Slab One": Kind.SLAB,
    "Arvo": Kind.SLAB,
    "Barlow": Kind.SANS,
    "Cantarell": Kind.SANS,
    "Comfortaa": Kind.SANS,
    "DejaVu Sans": Kind.SANS,
    "DejaVu Serif": Kind.SERIF,
    "EB Garamond": Kind.SERIF,
    "Vollkorn": Kind.SERIF,
    "Dancing Script": Kind.SCRIPT,
    "Lobster Two": Kind.SCRIPT,
    "Pacifico": Kind.SCRIPT,
    "Sacramento": Kind.SCRIPT,
}
"""As their makers describe them (the faces' own documentation, from memory)."""


@pytest.mark.parametrize("face", shelf_of_many().faces, ids=lambda face: face.name)
def test_faces_are_of_the_kind_that_their_makers_say_and_by_their_curves_too(face):
    assert kind_of(face) == KINDS.get(face.family, Kind.SANS)
    assert use_of(face) is Use.OPEN
    nameless = replace(face, family="Tidewrack", style="")
    assert kind_of(nameless) == KINDS.get(face.family, Kind.SANS) or face.family.startswith("DejaVu Serif")


@pytest.mark.parametrize(
    ("words", "use"),
    [
        ("Free for personal use", Use.PERSONAL),
        ("SIL Open Font License 1.1", Use.OPEN),
        ("Ask the foundry", Use.UNKNOWN),
    ],
)
def test_the_use_of_a_face_is_what_its_own_licence_says(tmp_path, words, use):
    variable(tmp_path / "tidewrack.ttf", words)
    assert use_of(faces_in(tmp_path / "tidewrack.ttf")[0]) is use


def test_a_variable_face_is_set_at_the_weight_asked_for_and_keeps_it_in_a_file(tmp_path):
    """A stem of 100 units at 400 and 300 at 700: linear between (OpenType specification, "Font variations")."""
    variable(tmp_path / "tidewrack.ttf")
    shelf = Shelf(faces_in(tmp_path / "tidewrack.ttf"))
    shop = Workshop(Ticket(), shelf)
    (axis,) = axes_of(shelf.faces[0])
    assert (axis.tag, axis.name, axis.least, axis.usual, axis.most) == ("wght", "Weight", 400, 400, 700)
    on = sheet(lettering("i", "Tidewrack", 100))
    for options, stem in (
        ({"weight": 550}, 20.0),
        ({"axes": "wght 475"}, 15.0),
        ({"weight": 700}, 30.0),
        ({"axes": "wght=900"}, 30.0),
    ):
        after = apply(Call("set-face", ("name",), options=options), on, shop).sheet
        again = parse_svg(write_svg(after), "again.svg")
        for text in (after.find("name"), again.find("name")):
            x0, _, x1, _ = bounds(set_lettering(text, shelf).glyphs[0].path())
            assert x1 - x0 == pytest.approx(stem, abs=0.01), options
    assert shelf.match(FaceQuery(("Tidewrack",), 900)) is None  # not to be had, and nothing is thickened
    with pytest.raises(StepRefused, match="no place on an axis"):
        apply(Call("set-face", ("name",), options={"axes": "heavy"}), on, shop)


def test_single_letters_have_a_face_size_slant_and_width_of_their_own_and_stay_live():
    shop = Workshop(Ticket(), shelf_of_many())
    on = sheet(lettering("Tern", "Barlow", 20))
    steps = [
        Call("set-face", ("name",), options={"family": "Vollkorn", "height": "30 mm", "letters": "1"}),
        Call("set-face", ("name",), options={"weight": 700, "letters": "2"}),
        Call("stretch-text", ("name",), options={"slant": 20.0, "letters": "3"}),
        Call("stretch-text", ("name",), options={"width": 150.0, "letters": "4"}),
        Call("set-colour", ("name",), options={"colour": "#ff0000", "letters": "4"}),
    ]
    was = {g.first: bounds(g.path()) for g in set_lettering(on.find("name"), shop.shelf).glyphs}
    for call in steps:
        on = apply(call, on, shop).sheet
    (text,) = on.letterings()
    assert text.text == "Tern"
    glyphs = {g.first: g for g in set_lettering(text, shop.shelf).glyphs}
    now = {first: bounds(glyph.path()) for first, glyph in glyphs.items()}
    size = {first: (box[2] - box[0], box[3] - box[1]) for first, box in now.items()}
    assert (glyphs[0].face.family, glyphs[1].face.weight, glyphs[2].face.weight) == ("Vollkorn", 700, 400)
    assert size[0][1] == pytest.approx(30, abs=0.5)
    assert size[2][1] == pytest.approx(was[2][3] - was[2][1])  # a slant keeps the height
    assert size[3][0] == pytest.approx(1.5 * (was[3][2] - was[3][0]))
    assert glyphs[3].run.look.fill == "#ff0000"
    assert glyphs[2].run.look.fill == "#000000"
    assert now[3][0] > now[2][0] > now[1][0] > now[0][0]
    written = parse_svg(write_svg(outgoing(on, shop)), "out.svg")
    assert not written.letterings()
    assert len(written.outlines()) == 4
    assert "can't slant or stretch" in outlined_to_save(on)[0]
    worded = apply(Call("set-text", ("name",), options={"text": "Gull"}), on, shop).sheet
    assert worded.find("name").text == "Gull"


def test_a_slant_leans_by_its_angle_and_impossible_ones_are_refused():
    shop = Workshop(Ticket(), shelf_of_many())
    on = sheet(lettering("I", "DejaVu Sans", 20))
    x0, y0, x1, y1 = bounds(set_lettering(on.find("name"), shop.shelf).glyphs[0].path())
    after = apply(Call("stretch-text", ("name",), options={"slant": 45.0}), on, shop).sheet
    box = bounds(set_lettering(after.find("name"), shop.shelf).glyphs[0].path())
    assert box[2] - box[0] == pytest.approx(x1 - x0 + y1 - y0)
    for options in ({"slant": 80.0}, {"width": 0.0}, {}):
        with pytest.raises(StepRefused):
            apply(Call("stretch-text", ("name",), options=options), on, shop)
