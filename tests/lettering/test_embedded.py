"""Lines of a PDF in a face of their own that isn't installed: corrected with its own letters, or in the face that comes
nearest by its curves.
"""

from dataclasses import replace

import numpy as np
import pytest
from fontTools.misc.transform import Transform
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from tests.lettering.faces import shelf_of_many
from unkelt.errors import StepRefused
from unkelt.formats.pdf.read import read_pdf
from unkelt.geometry.measure import bounds
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf, open_face
from unkelt.lettering.setting import set_lettering
from unkelt.lettering.shaping import glyph_path
from unkelt.recipe import Call, apply

PT = 25.4 / 72
MANY = shelf_of_many()
VOLLKORN = next(face for face in MANY.faces if face.name == "Vollkorn")
WITHOUT = Workshop(Ticket(), Shelf([face for face in MANY.faces if face.family != "Vollkorn"]))
WITH = Workshop(Ticket(), MANY)


@pytest.fixture(scope="module")
def page(tmp_path_factory):
    """“Hollin Quay” in Vollkorn, under a name that no shelf has."""
    path = tmp_path_factory.mktemp("pdf") / "quay.pdf"
    pdfmetrics.registerFont(TTFont("Tidewrack", str(VOLLKORN.path)))
    canvas = Canvas(str(path), pagesize=(400, 200))
    canvas.setFont("Tidewrack", 40)
    canvas.drawString(30, 90, "Hollin Quay")
    canvas.save()
    return read_pdf(path)


def glyph_of(letter):
    return open_face(VOLLKORN).get_nominal_glyph(ord(letter))


def changed(on, shop, name, **options):
    (text,) = on.letterings()
    return apply(Call(name, (text.id,), options=options), on, shop)


def test_words_of_letters_that_occur_are_set_in_the_embedded_face_by_its_own_advances(page):
    outcome = changed(page, WITHOUT, "set-text", text="Quay Hill")
    (after,), (before,) = outcome.sheet.letterings(), page.letterings()
    assert "".join(letter for letter, _ in after.drawn) == "QuayHill"
    font, k = open_face(VOLLKORN), 40 * PT / 1000
    x, letters = before.pens[0].x, dict(after.drawn)
    start = before.drawn[0][1].points[:, :, 0].min() - k * bounds(glyph_path(VOLLKORN, glyph_of("H")))[0]
    drawn = iter(after.drawn)
    for letter in "Quay Hill":
        if letter != " ":
            said, path = next(drawn)
            glyph = glyph_path(VOLLKORN, glyph_of(letter))
            meant = glyph.transformed(Transform(k, 0, 0, -k, start + x, (200 - 90) * PT))
            assert said == letter
            assert bounds(path) == pytest.approx(bounds(meant), abs=0.02)
        x += font.get_glyph_h_advance(glyph_of(letter)) * k
    assert set(letters) == set("QuayHil")
    assert after.drawn[0][1].points[:, :, 0].min() > before.drawn[0][1].points[:, :, 0].min() - 2


def test_a_letter_that_does_not_occur_is_never_taken_from_a_face_that_was_guessed(page):
    with pytest.raises(StepRefused, match=r"its own letters have no “Ter”, and .* is not here") as refused:
        changed(page, WITHOUT, "set-text", text="Tern")
    assert refused.value.way_out == "set-face"
    wrong = Workshop(Ticket(), Shelf([face for face in MANY.faces if face.name == "Arvo"]))
    arvo = changed(page, wrong, "set-face", family="Arvo")
    assert "H 0." in arvo.evidence.letters_off


@pytest.mark.parametrize(
    ("step", "options"),
    [
        ("set-spacing", {"letters": "2 mm"}),
        ("set-on-guide", {"radius": "90 mm"}),
        ("stretch-text", {"slant": 10.0}),
        ("set-letters", {"kern": "1 mm"}),
        ("set-colour", {"colour": "#ff0000", "letters": "1"}),
        ("set-paragraph", {"width": "300 mm"}),
    ],
)
def test_no_step_puts_a_guessed_face_in_place_of_the_files_own_letters(page, step, options):
    with pytest.raises(StepRefused, match="the file draws these letters itself") as refused:
        changed(page, WITHOUT, step, **options)
    assert refused.value.way_out in ("set-face", "split-text")
    wrong = Workshop(Ticket(), Shelf([replace(face, family="Vollkorn") for face in MANY.faces if face.name == "Arvo"]))
    with pytest.raises(StepRefused, match="the file draws these letters itself"):
        changed(page, wrong, step, **options)


@pytest.mark.parametrize(("shop", "name", "most"), [(WITH, "Vollkorn", 0.02), (WITHOUT, None, None)])
def test_the_nearest_face_is_found_by_its_curves_with_the_deviation_of_each_letter(page, shop, name, most):
    outcome = changed(page, shop, "set-face", nearest=True)
    (after,), (before,) = outcome.sheet.letterings(), page.letterings()
    face = shop.shelf.match(after.runs[0].face)
    off = dict(each.split(" ")[:2] for each in outcome.evidence.letters_off.split(" · "))
    assert set(off) == set("HolinQuay")
    if name:
        assert face.name == name
        assert max(map(float, off.values())) < most
        assert after.runs[0].size_mm == pytest.approx(before.runs[0].size_mm, rel=1e-3)
        corrected = changed(outcome.sheet, shop, "set-text", text="Tern")
        assert corrected.sheet.letterings()[0].text == "Tern"
    else:
        assert face.family in ("EB Garamond", "DejaVu Serif", "Arvo")
        assert max(map(float, off.values())) > 0.1
    height = [np.ptp(np.concatenate([p.points[:, :, 1].ravel() for p in paths])) for paths in (
        [path for _, path in before.drawn],
        [path for _, _, path in set_lettering(after, shop.shelf).letters(after.placement) if len(path)],
    )]  # fmt: skip
    assert height[0] == pytest.approx(height[1], rel=0.2)
