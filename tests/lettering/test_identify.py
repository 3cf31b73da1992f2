"""Whose letters are these: words outlined, then moved, turned, mirrored, welded, reduced, and named again."""

from dataclasses import replace

import numpy as np
import pytest

from tests.builders import SHELF, lettering, outline, sheet, square, workshop
from unkelt.errors import StepRefused
from unkelt.geometry.path import PathBuilder, polygon
from unkelt.geometry.shape import mirrored_marks, ring_shapes
from unkelt.lettering.prints import FIELDS, prints_of
from unkelt.lettering.setting import set_lettering
from unkelt.mending import mend
from unkelt.recipe import Call, Recipe, apply, dump_recipe, parse_recipe, run
from unkelt.sheet.model import Sheet


def outlined(text: str, family: str, *calls: Call) -> Sheet:
    result = apply(Call("set-text", options={"text": text}), sheet(lettering("one", family, 40)), workshop()).sheet
    for call in (*calls, Call("outline-text")):
        result = apply(call, result, workshop()).sheet
    return result


def after(made: Sheet, *names: str) -> Sheet:
    for name in names:
        made = apply(Call(name, options={"angle": 33.0} if name == "rotate" else {}), made, workshop()).sheet
    return made


@pytest.mark.parametrize(
    ("text", "family"),
    [
        ("Kittiwake", "Sacramento"),
        ("Sea Thrift 1952, O'Neill", "Barlow"),
        ("AVA flower | of the bay", "Dancing Script"),
    ],
)
@pytest.mark.parametrize("then", [(), ("mirror", "rotate"), ("weld",)], ids=["plain", "mirrored and turned", "welded"])
def test_words_are_named_and_set_again_where_they_stood(text, family, then):
    if then == ("weld",) and family == "Barlow":
        then = ("reduce-nodes",)  # its letters don't join; half a turn nearly carries an S, a 2 or a 5 into itself
    made = outlined(text, family)
    made = after(made, *then)
    found = apply(Call("recover-text"), made, workshop())
    assert (found.evidence.face, found.evidence.words) == (family, text.replace(" | ", " "))
    assert found.evidence.sure_percent > 98
    assert found.evidence.max_deviation_mm < 0.06
    assert [type(item).__name__ for item in found.sheet.items if item.id != "name"] in (["Lettering"], [])


@pytest.mark.parametrize(("text", "family"), [("2025 Sss", "Sacramento"), ("AS 12", "Pacifico")])
def test_letters_that_were_welded_and_reduced_are_found_along_their_line(text, family):
    """No ring and no segment of such a letter is its face's own any more."""
    made = mend(outlined(text, family), workshop())[-1].sheet
    found = apply(Call("recover-text"), made, workshop())
    assert (found.evidence.face, found.evidence.words) == (family, text)
    assert found.evidence.subpaths_left == 0
    assert found.evidence.max_deviation_mm < 0.1


def test_moved_letters_and_other_forms_stay_as_they_were():
    made = outlined(
        "Kittiwake",
        "Pacifico",
        Call("set-letters", options={"letters": "6", "kern": "2 mm", "lift": "3 mm", "turn": 20.0}),
        Call("set-letters", options={"letters": "8", "features": "fina"}),
    )
    found = apply(Call("recover-text"), made, workshop())
    assert found.evidence.words == "Kittiwake"
    assert found.evidence.max_deviation_mm < 0.02
    again = apply(Call("outline-text"), found.sheet, workshop()).sheet
    assert len(again.outlines()) == len(made.outlines())


def test_on_an_arc_and_back_again_by_recipe():
    made = outlined("Hollin Quay", "Arvo", Call("set-on-guide", options={"radius": "120 mm"}))
    recipe = parse_recipe(
        dump_recipe(Recipe((Call("recover-text"), Call("set-text", options={"text": "Hollin Cove"}))))
    )
    stages = run(recipe, made, workshop())
    assert all(stage.outcome for stage in stages)
    (text,) = stages[0].sheet.letterings()
    turns = [glyph.turn for glyph in set_lettering(text, SHELF).glyphs if glyph.letters.strip()]
    assert np.all(np.diff(turns) > 0)
    assert stages[1].sheet.letterings()[0].text == "Hollin Cove"


def test_what_is_no_letter_stays_and_what_cannot_be_read_is_said():
    word = outlined("Tern", "Arvo")
    frame = outline("frame", polygon((0, 0), (380, 0), (380, 280), (0, 280)))
    found = apply(Call("recover-text"), Sheet((400, 300), (*word.items, frame)), workshop())
    assert found.evidence.subpaths_left == 1
    assert found.sheet.find("frame") == frame
    with pytest.raises(StepRefused, match="no letters of any face"):
        apply(Call("recover-text"), sheet(frame), workshop())
    with pytest.raises(StepRefused, match="no letters of Pacifico"):
        apply(Call("recover-text", options={"family": "Pacifico"}), word, workshop())
    unclear = after(outlined("Kittiwake", "Sacramento"), "weld", "reduce-nodes")
    x0, y0, x1, y1 = unclear.drawn_box()
    hole = square((x1 - x0) / 6, (x0 + x1) / 2, (y0 + y1) / 2 - (x1 - x0) / 12)
    word = max(unclear.outlines(), key=lambda each: len(each.path.points)).id
    unclear = apply(
        Call("knock-out", ("hole",), options={"out_of": word}),
        replace(unclear, items=(*unclear.items, outline("hole", hole))),
        workshop(),
    ).sheet
    with pytest.raises(StepRefused, match=r"letters of Sacramento, .* say the words"):
        apply(Call("recover-text"), unclear, workshop())
    said = apply(Call("recover-text", options={"text": "Kittiwake"}), unclear, workshop())
    assert said.sheet.letterings()[0].text == "Kittiwake"


def test_marks_stay_under_similarity_and_closed_forms():
    """A disc: c11/c00² = 1/(2π); a rectangle a × b: c11/c00² = (a² + b²)/(12ab), |c20|/c00² = (a² - b²)/(12ab) (second
    moments of area, any handbook of mechanics). A triangle's third moments have a direction, which turns with it.
    """
    circle = PathBuilder()
    k = 4 / 3 * (np.sqrt(2) - 1)
    circle.move_to(1, 0)
    for a in range(4):
        at = [complex(np.exp(0.5j * np.pi * (a + s))) for s in (0, 1)]
        h1, h2 = at[0] * (1 + 1j * k), at[1] * (1 - 1j * k)
        circle.cubic_to(h1.real, h1.imag, h2.real, h2.imag, at[1].real, at[1].imag)
    circle.close()
    assert ring_shapes(circle.path()).marks[0, 0] == pytest.approx(1 / (2 * np.pi), rel=1e-3)
    box = ring_shapes(polygon((5, 5), (11, 5), (11, 7), (5, 7))).marks[0]
    assert box[:2] == pytest.approx([(36 + 4) / 144, (36 - 4) / 144])
    corner = polygon((0, 0), (4, 0), (0, 2))
    turned = polygon((0, 0), (0, 8), (-4, 0))  # twice the size, a quarter round
    one, other = ring_shapes(corner), ring_shapes(turned)
    assert other.marks == pytest.approx(one.marks)
    assert np.angle(other.third / one.third) == pytest.approx(np.pi / 2)
    seen = ring_shapes(polygon((0, 0), (-4, 0), (0, 2)))
    assert mirrored_marks(seen.marks) == pytest.approx(one.marks)
    assert np.isnan(ring_shapes(polygon((0, 0), (1, 0), (2, 0))).marks).all()


def test_a_damaged_cache_does_no_harm(tmp_path):
    faces = (replace(SHELF.faces[0], bundled=False),)  # what is bundled needs no cache
    first = prints_of(faces, tmp_path)
    (kept,) = tmp_path.iterdir()
    kept.write_bytes(b"PK nothing")
    assert np.array_equal(prints_of(faces, tmp_path).marks, first.marks)
    assert np.array_equal(prints_of(faces, tmp_path).ends, first.ends)


def test_what_is_shipped_of_the_bundled_faces_is_what_they_look_like(tmp_path):
    face = next(face for face in SHELF.faces if face.bundled and face.family == "Pacifico")
    shipped = prints_of((face,), tmp_path)
    assert not list(tmp_path.iterdir())  # nothing had to be looked at
    looked_at = prints_of((replace(face, bundled=False),), tmp_path)
    for name in FIELDS:
        assert np.allclose(getattr(shipped, name), getattr(looked_at, name)), f"run docs/make_prints.py: {name}"
