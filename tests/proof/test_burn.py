"""The burn: areas against GEOS, gaps of even-odd, places burnt twice."""

import io

import numpy as np
import pytest
from PIL import Image

from tests.builders import circle, glyph_paths, square
from unkelt.geometry.path import concat
from unkelt.geometry.region import region
from unkelt.job.ticket import Ticket, parse_ticket
from unkelt.proof.burn import burn
from unkelt.proof.imported import Body

KEY = parse_ticket('[key]\nengrave = ["#20262b"]\ncut = ["#0b5d4c"]')


def body(*paths, even_odd=False, fill="#20262b"):
    return Body(concat(paths), fill, None, even_odd)


@pytest.mark.parametrize("even_odd", [False, True])
@pytest.mark.parametrize("text", ["Kittiwake", "BERTH 8"])
def test_what_is_burnt_is_the_area_that_geos_finds(text, even_odd):
    paths = glyph_paths(text, "Pacifico", 40)
    found = burn([body(*paths, even_odd=even_odd)], KEY, 0.05)
    # Half a pitch along the outline at most; errors cancel along a line.
    assert found.burnt_mm2 == pytest.approx(region(concat(paths), even_odd, 0.002).area, rel=5e-3)
    assert found.twice_mm2 == 0


def test_even_odd_leaves_gaps_and_separate_bodies_burn_twice():
    one, other = square(20, 10, 10), square(20, 20, 10)
    together = burn([body(one, other, even_odd=True)], KEY, 0.1)
    assert together.burnt_mm2 == pytest.approx(400, rel=1e-2)
    apart = burn([body(one), body(other)], KEY, 0.1)
    assert (apart.burnt_mm2, apart.twice_mm2) == (pytest.approx(600, rel=1e-2), pytest.approx(200, rel=1e-2))
    shades = apart.shades()
    assert sorted(set(shades.ravel().tolist())) == sorted({255 if (apart.passes == 0).any() else 102, 102, 40})


def test_only_what_is_engraved_is_burnt_and_the_picture_has_its_resolution():
    assert burn([body(square(9), fill="#0b5d4c")], KEY) is None
    found = burn([body(circle(5, 20)), body(square(9), fill="#0b5d4c")], KEY, 0.1)
    assert found.burnt_mm2 == pytest.approx(np.pi * 25, rel=1e-2)
    assert found.lines_mm == pytest.approx(found.burnt_mm2 / 0.1)
    picture = Image.open(io.BytesIO(found.png()))
    assert picture.info["dpi"][0] == pytest.approx(254, abs=0.1)
    assert burn([body(square(9))], Ticket(), 0.5).passes.shape == (18, 18)
    assert burn([], KEY) is None
