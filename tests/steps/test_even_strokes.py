"""Words with a stroke of even thickness: inside, outside or on both sides, welded first, in files and pictures too."""

import numpy as np
import pytest
import shapely

from tests.builders import SHELF, glyph_paths, lettering, outline, sheet, square, workshop
from tests.rendering import drawn
from unkelt.errors import InputError, StepRefused
from unkelt.formats.formats import write_sheet
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.path import polygon
from unkelt.geometry.region import region
from unkelt.job.ticket import parse_ticket
from unkelt.job.workshop import Workshop
from unkelt.mending import mend
from unkelt.outgoing import outgoing, outlined_to_save
from unkelt.recipe import Call, apply
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Outline

WIDTH = 0.8


def word_area():
    """All letters of the word as one, by the second engine alone."""
    x, parts = 0.0, []
    for path in glyph_paths("Kitti", "Pacifico"):
        parts.append(region(path, False, 0.002))
        x += 1
    return shapely.union_all(parts)


def stroked(side, on=None, **options):
    on = on or sheet(lettering("Kitti", "Pacifico"), page=(400, 300))
    given = {"width": f"{WIDTH} mm", "side": side, "fill": "none", "colour": "#000000"} | options
    return apply(Call("set-stroke", options=given), on, workshop()).sheet


@pytest.mark.parametrize("side", ["inside", "centre", "outside"])
def test_an_outline_only_word_is_one_even_band_without_a_line_through_it(side):
    on = stroked(side, corners="round")
    stages = mend(on, workshop())
    assert not [stage for stage in stages if stage.skipped]
    after = stages[-1].sheet
    assert not after.letterings()
    outlines = after.outlines()
    assert {o.look.stroke for o in outlines} == {None}
    band = shapely.union_all([region(o.path, o.look.even_odd, 0.002) for o in outlines])
    whole = word_area()
    low, high = {"inside": (-WIDTH, 0), "centre": (-WIDTH / 2, WIDTH / 2), "outside": (0, WIDTH)}[side]
    meant = shapely.difference(whole.buffer(high, quad_segs=32), whole.buffer(low, quad_segs=32))
    assert shapely.symmetric_difference(band, meant).area < 0.02 * meant.area
    # No line runs through: at most half a width into the meant band, nothing is missing.
    assert shapely.difference(meant.buffer(-0.1), band).area < 0.05


def test_the_width_is_changed_later_and_the_stroke_taken_off_again():
    on = stroked("inside")
    wider = apply(Call("set-stroke", options={"width": "1.5 mm", "side": "outside"}), on, workshop()).sheet
    (look,) = {run.look for run in wider.letterings()[0].runs}
    assert (look.stroke_width_mm, look.stroke_side, look.fill) == (1.5, "outside", None)
    off = apply(Call("set-stroke", options={"width": "0 mm"}), wider, workshop()).sheet.letterings()[0].runs[0].look
    assert (off.stroke, off.fill, off.stroke_side) == (None, "#000000", "centre")


@pytest.mark.parametrize("side", ["inside", "outside"])
def test_a_stroke_on_one_side_goes_into_a_file_as_it_is_seen(side):
    on = stroked(side, colour="#ff0000", fill="keep")
    assert "one side" in outlined_to_save(on)[0]
    written = parse_svg(write_svg(outgoing(on, workshop())), "out.svg")
    colours = {o.look.fill for o in written.outlines()}
    assert colours == {"#000000", "#ff0000"}
    red = shapely.union_all([region(o.path, False, 0.002) for o in written.outlines() if o.look.fill == "#ff0000"])
    whole = word_area()
    assert shapely.intersection(red, whole).area / red.area == pytest.approx(1.0 if side == "inside" else 0.0, abs=0.05)


def test_a_square_has_a_band_of_the_closed_form_on_each_side():
    on = sheet(outline("a", square(40, 20, 20)), page=(100, 100))
    for side, area in (("inside", 40**2 - 36**2), ("centre", 42**2 - 38**2), ("outside", 44**2 - 40**2)):
        after = stroked(side, on, width="2 mm")
        done = apply(Call("expand-stroke", ("a",)), after, workshop()).sheet
        (path,) = [o.path for o in done.outlines()]
        assert region(path, False, 0.001).area == pytest.approx(area, abs=0.01)
        pixels = drawn(write_svg(outgoing(after, workshop())).decode())
        per_mm2 = (96 / 25.4) ** 2
        assert (pixels / 255).sum() / per_mm2 == pytest.approx(area, rel=0.01)


@pytest.mark.parametrize("ending", [".svg", ".pdf"])
def test_a_stroke_on_one_side_is_never_written_on_both(tmp_path, ending):
    on = stroked("inside", sheet(outline("a", square(40, 20, 20)), page=(100, 100)))
    with pytest.raises(InputError, match="on one side of its line"):
        write_sheet(on, tmp_path / f"a{ending}")
    assert not list(tmp_path.iterdir())
    write_sheet(outgoing(on, workshop()), tmp_path / f"a{ending}")


def test_an_open_line_has_no_inside():
    line = Outline("o", polygon((0, 0), (20, 0), closed=False), Appearance(fill=None, stroke="#000000"))
    with pytest.raises(StepRefused, match="is open and has no inside"):
        stroked("inside", sheet(line))
    assert stroked("centre", sheet(line), ends="round").find("o").look.line_cap == "round"


def test_with_a_key_a_one_sided_stroke_is_thickness_and_no_cut_line():
    keyed = Workshop(parse_ticket('[key]\ncut = ["#000000"]'), SHELF)
    stages = mend(stroked("outside"), keyed)
    after = stages[-1].sheet
    assert {o.look.stroke for o in after.outlines()} == {None}
    assert np.isfinite(after.drawn_box()).all()
