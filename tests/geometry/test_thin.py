"""Thickness, gaps and spikes, against shapes whose measures are known by construction."""

import math

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import SHELF, moved, outline, ring, rolled, sheet, square, workshop
from unkelt.geometry.edit.spikes import spikes
from unkelt.geometry.offset.thickness import thin_parts
from unkelt.geometry.path import concat, polygon
from unkelt.geometry.region import region
from unkelt.job.ticket import parse_ticket
from unkelt.job.workshop import Workshop
from unkelt.recipe import Call, apply
from unkelt.survey.checks import find_code, survey

FILM = Workshop(parse_ticket('[machine]\nsmallest_stroke = "1 mm"\nsmallest_gap = "0.5 mm"'), SHELF)


def dumbbell(width: float) -> shapely.Geometry:
    bar = shapely.box(10, 5 - width / 2, 20, 5 + width / 2)
    return shapely.union_all([shapely.box(0, 0, 10, 10), bar, shapely.box(20, 0, 30, 10)])


@given(st.floats(0.3, 1.6), st.floats(0, 360))
def test_a_bridge_is_thin_when_it_is_and_measured_so(width, turn):
    found = thin_parts(shapely.affinity.rotate(dumbbell(width), turn), 1.0, 0.005)
    if width < 0.97:
        assert len(found) == 1
        assert found[0].width_mm == pytest.approx(width, abs=0.02)
    elif width > 1.0:
        assert not found


@pytest.mark.parametrize(("degrees", "thin"), [(90, False), (40, False), (20, False), (12, True), (6, True)])
def test_a_corner_is_no_thin_part_till_it_is_a_needle(degrees, thin):
    half = 30 * math.tan(math.radians(degrees / 2))
    wedge = shapely.Polygon([(0, 0), (30, half), (30, -half)])
    assert bool(thin_parts(wedge, 1.0, 0.005)) == thin


def test_strokes_and_gaps_of_a_sheet_are_measured_against_the_ticket():
    bar = outline("bar", polygon((0, 20), (40, 20), (40, 20.6), (0, 20.6)))
    tags = [outline("left", square(10)), outline("right", square(10, 10.3))]
    slit = outline("slit", ring(8, 7.8, 60, 10))
    found = {(f.code, f.items): f.value for f in find_code("fine.stroke", sheet(bar, *tags, slit), FILM)}
    found |= {(f.code, f.items): f.value for f in find_code("fine.gap", sheet(bar, *tags, slit), FILM)}
    assert found == {
        ("fine.stroke", ("bar",)): pytest.approx(0.6, abs=0.02),
        ("fine.stroke", ("slit",)): pytest.approx(0.2, abs=0.02),
        ("fine.gap", ("left", "right")): pytest.approx(0.3, abs=0.02),
    }
    assert not find_code("fine.stroke", sheet(bar), workshop())


def needle(degrees: float, length: float = 20):
    half = math.tan(math.radians(degrees / 2)) * length
    body = [(0, -8), (10, -8), (10, -half), (10 + length, 0), (10, half), (10, 8), (0, 8)]
    return polygon(*body)


@pytest.mark.parametrize(("degrees", "found"), [(4, 1), (10, 1), (14, 0), (40, 0)])
@pytest.mark.parametrize("start", range(0, 7, 2))
def test_spikes_are_found_from_any_start_node_and_notches_are_not(degrees, found, start):
    path = needle(degrees)
    path = rolled(path, start)
    assert len(spikes(path, region(path, False, 0.01))) == found
    hole = concat([square(80, -20, -40), path.reversed()])
    assert not [s for s in spikes(hole, region(hole, False, 0.01)) if s.subpath == 1]


def test_a_spike_is_cut_off_where_it_is_as_wide_as_asked():
    on = sheet(outline("n", moved(needle(5), 50, 50)), page=(200, 100))
    outcome = apply(Call("blunt-spikes", rule="nodes.spike", options={"width": "0.4 mm"}), on, FILM)
    cut = 0.2 / math.sin(math.radians(2.5))
    assert outcome.evidence.longest_cut_off_mm == pytest.approx(cut, abs=0.01)
    assert outcome.evidence.area_lost_mm2 == pytest.approx(0.4 * cut * math.cos(math.radians(2.5)) / 2, abs=0.01)
    assert not [f for f in survey(outcome.sheet, FILM) if f.code == "nodes.spike"]
