"""Strokes that are thickness, and lettering made bolder."""

from dataclasses import replace

import numpy as np
import pytest

from tests.builders import outline, ring, sheet, square, workshop
from unkelt.errors import StepRefused
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.geometry.measure import lengths, signed_areas
from unkelt.mending import mend
from unkelt.recipe import Call, apply
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Outline, Sheet
from unkelt.survey.checks import survey


def found_codes(on: Sheet) -> list[str]:
    return [f.code for f in survey(on, workshop()) if not f.code.startswith("place.")]


def stroked(d, **look):
    path = parse_path_data(d, 1e-3).path
    look = {"fill": None, "stroke": "#000000", "stroke_width_mm": 3.0} | look
    return Outline("line", path, Appearance(**look))


def test_a_visible_stroke_is_found_and_becomes_an_outline():
    line = stroked("M10 10C40 80 70 -40 110 30", line_cap="round")
    found = found_codes(sheet(line))
    assert "stroke.visible" in found
    assert "path.open" not in found  # its outline will be closed
    mended = mend(sheet(line), workshop())[-1].sheet
    assert found_codes(mended) == []
    (outlined,) = mended.outlines()
    assert (outlined.look.fill, outlined.look.stroke) == ("#000000", None)
    width = 2 * float(np.abs(signed_areas(outlined.path)).sum()) / float(lengths(outlined.path).sum())
    assert width == pytest.approx(3.0, rel=0.02)


def test_hairlines_and_keyed_lines_are_no_thickness():
    assert "stroke.visible" not in found_codes(sheet(stroked("M10 10h20v20z", stroke_width_mm=0.2646)))
    keyed = workshop('[key]\ncut = ["#000000"]')
    assert "stroke.visible" not in [f.code for f in survey(sheet(stroked("M10 10h20v20z")), keyed)]


def test_a_fill_is_joined_with_its_stroke_of_the_same_colour_and_kept_beneath_another():
    same = stroked("M10 10h20v20h-20z", fill="#000000", line_join="miter")
    (whole,) = apply(Call("expand-stroke"), sheet(same), workshop()).sheet.outlines()
    assert signed_areas(whole.path).tolist() == pytest.approx([23.0**2])
    other = replace(same, look=replace(same.look, fill="#ff0000"))
    beneath, above = apply(Call("expand-stroke"), sheet(other), workshop()).sheet.outlines()
    assert (beneath.id, beneath.look.fill, beneath.look.stroke) == ("line", "#ff0000", None)
    assert (above.look.fill, above.path.node_count) == ("#000000", 8)


def test_letters_are_made_bolder_with_their_counters_guarded():
    letter = outline("o", ring(10, 1.0))
    bolder = apply(Call("thicken", options={"amount": "0.4 mm"}), sheet(letter), workshop())
    assert bolder.evidence.counters.after == 1
    assert signed_areas(bolder.sheet.outlines()[0].path).sum() == pytest.approx(np.pi * (10.4**2 - 0.6**2), rel=1e-3)
    with pytest.raises(StepRefused, match="1 of 1 counters would close"):
        apply(Call("thicken", options={"amount": "1.2 mm"}), sheet(letter), workshop())
    closed = apply(Call("thicken", options={"amount": "1.2 mm", "close_counters": True}), sheet(letter), workshop())
    assert closed.evidence.counters.after == 0
    narrow = workshop('[machine]\nsmallest_gap = "1.5 mm"')
    with pytest.raises(StepRefused, match="narrower than the ticket"):
        apply(Call("thicken", options={"amount": "12 pt"}), sheet(outline("o", ring(20, 4.9))), narrow)
    with pytest.raises(StepRefused, match="would vanish"):
        apply(Call("thicken", options={"amount": "-6 mm"}), sheet(outline("s", square(10))), workshop())
    with pytest.raises(StepRefused, match="limit: must be a number"):
        apply(Call("thicken", options={"limit": "wide"}), sheet(letter), workshop())
