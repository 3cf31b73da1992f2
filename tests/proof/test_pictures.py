"""Pictures laid upon each other: what counts as a difference, and what is the renderer's own."""

from pathlib import Path

from tests.builders import outline, sheet, workshop
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.path import polygon
from unkelt.recipe import Call, Stage, apply
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Outcome
from unkelt.verdict.case import Case
from unkelt.verdict.painted import pictures_of

RED = "#ff0000"


def halves(x, gap_mm):
    """A red field with a slit at `x`, on a page that is painted at 0.16 mm a pixel."""
    left, right = (
        polygon((20, 20), (x, 20), (x, 100), (20, 100)),
        polygon((x + gap_mm, 20), (90, 20), (90, 100), (x + gap_mm, 100)),
    )
    return sheet(outline("a", left, RED), outline("b", right, RED), page=(160, 140))


def differences(before, after):
    case = Case(
        Path("a.svg"),
        before,
        workshop(),
        (Stage(Call("weld"), after, Outcome(after, ("a", "b"), Evidence())),),
        received=write_svg(before),
    )
    return pictures_of(case).lost


def test_a_slit_that_moved_within_the_tolerance_is_no_difference():
    """The renderer knows four steps across a pixel: 0.015 mm make the slit, thinner than a pixel, a quarter paler."""
    assert differences(halves(48.27, 0.1), halves(48.285, 0.1)) == ()


def test_a_slit_that_was_closed_is_a_difference():
    assert differences(halves(48.27, 0.1), halves(48.27, 0.0))


def test_a_dot_drawn_by_a_wide_stroke_and_an_underline_are_no_difference():
    """What the renderer paints in its own way: the middle of such a dot, and where the line under a word lies."""
    drawn = (
        b'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60">'
        b'<circle cx="20" cy="20" r="3" fill="none" stroke="#008000" stroke-width="12"/><text x="5" y="50" '
        b'font-family="Pacifico" font-size="14" text-decoration="underline">Tern</text></svg>'
    )
    original = parse_svg(drawn)
    for step, gone in ((Call("outline-text"), ()), (Call("drop-item", ("text-1",)), ("lost",))):
        outcome = apply(step, original, workshop())
        stages = (Stage(step, outcome.sheet, outcome),)
        case = Case(Path("a.svg"), original, workshop(), stages, received=drawn)
        assert bool(pictures_of(case).lost) == bool(gone)


def test_a_drawing_that_takes_too_long_to_paint_is_given_up(monkeypatch):
    monkeypatch.setattr("unkelt.proof.painter.LONGEST_S", 1e-4)
    case = Case(Path("a.svg"), halves(48, 0.1), workshop(), received=write_svg(halves(48, 0.1)))
    assert "to paint" in pictures_of(case).skipped


def test_what_is_no_drawing_is_said_in_a_line():
    case = Case(Path("a.svg"), halves(48, 0.1), workshop(), received=b"<svg><nothing")
    found = pictures_of(case)
    assert found.skipped
    assert "\n" not in found.skipped
    assert "Traceback" not in found.skipped


def test_a_drawing_that_tells_no_page_is_painted_on_the_one_it_was_read_on():
    drawn = b'<svg xmlns="http://www.w3.org/2000/svg" width="100%"><rect x="30" y="40" width="500" height="9"/></svg>'
    found = pictures_of(Case(Path("a.svg"), parse_svg(drawn), workshop(), received=drawn))
    assert not found.skipped
    assert not found.lost
