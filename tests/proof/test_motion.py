"""The dry run against the closed form of trapezoidal motion, and the stand-in importers."""

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest
import shapely

from tests.builders import circle, outline, sheet, square, workshop
from unkelt.errors import InputError
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.measure import bounds
from unkelt.geometry.path import concat, polygon
from unkelt.job.importing import parse_habits
from unkelt.job.ticket import parse_ticket
from unkelt.proof.dry_run import mishaps
from unkelt.proof.imported import Body
from unkelt.proof.motion import Move, dry_run, trapezoid_s
from unkelt.proof.proof import prove
from unkelt.proof.standin import stand_ins
from unkelt.session.portions import Portions, between
from unkelt.session.proofing import read_back
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Outline

LASER = parse_ticket('[machine]\nprofile = "laser"\nkerf = "0 mm"')


def body(*paths):
    return Body(concat(paths), None, "#000000", False)


def test_trapezoidal_motion_in_closed_form():
    """With v = 100 and a = 1000, the ramps take 0.1 s and 5 mm each; below v²/a = 10 mm the top speed isn't reached."""
    assert trapezoid_s(110, 100, 1000) == pytest.approx(1.1 + 0.1)
    assert trapezoid_s(10, 100, 1000) == pytest.approx(0.2) == pytest.approx(2 * math.sqrt(10 / 1000))
    assert trapezoid_s(2.5, 100, 1000) == pytest.approx(0.1)
    assert trapezoid_s(0, 100, 1000) == 0


def test_a_square_takes_four_stretches_and_the_way_to_it():
    machine = LASER.machine
    run = dry_run([body(square(50, 30, 40))], LASER)
    side = trapezoid_s(50, machine.speed_mm_s, machine.acceleration_mm_s2)
    way = trapezoid_s(50, machine.travel_mm_s, machine.acceleration_mm_s2)  # from the corner of the page: 30, 40
    assert run.seconds == pytest.approx(4 * side + way + machine.pierce_s + 4 * machine.node_s)
    assert run.length_mm("cut") == pytest.approx(200)
    assert run.at(0) == (0, 0, 0)
    assert run.at(run.seconds)[:2] == pytest.approx((30, 40))
    x, y, _ = run.at(way + machine.pierce_s + (run.seconds - way - machine.pierce_s) / 2)
    assert (x, y) == pytest.approx((80, 90))


BURNT = parse_ticket(
    '[machine]\nprofile = "laser"\nkerf = "0 mm"\nraster = "400 mm/s"\npitch = "0.1 mm"\nturn = "20 ms"\npasses = 2\n'
    '[key]\ncut = ["#ff0000"]\nengrave = ["#000000"]'
)


def test_an_engraving_is_burnt_line_by_line_in_closed_form():
    """w × h at pitch p has h/p lines; each takes w/v, v/a before it and after it, and the turn; all of it in each pass
    (constant acceleration, any handbook of mechanics).
    """
    machine = BURNT.machine
    run = dry_run([Body(square(50, 30, 40), "#000000", None, False)], BURNT)
    each = 50 / 400 + 2 * 400 / machine.acceleration_mm_s2 + 0.02
    way = trapezoid_s(math.hypot(30, 40.05), machine.travel_mm_s, machine.acceleration_mm_s2)
    assert run.seconds == pytest.approx(way + 2 * 500 * each, rel=1e-6)
    assert run.seconds_of("raster") == pytest.approx(run.seconds)
    assert run.length_mm("cut") == 0
    (burnt,) = [move for move in run.moves if move.kind == "raster"]
    rows = np.unique(burnt.points[:, 1])
    assert len(rows) == 500
    assert np.diff(rows) == pytest.approx(np.full(499, 0.1))
    assert burnt.points[:, 0].min() == pytest.approx(30)
    assert burnt.points[:, 0].max() == pytest.approx(80)


def test_work_is_told_by_operation_and_what_is_engraved_is_not_cut(tmp_path):
    red = Appearance(fill=None, stroke="#ff0000", stroke_width_mm=0.1)
    black = Appearance(fill="#000000")
    on = sheet(Outline("logo", square(40, 20, 20), black), Outline("edge", square(70, 5, 5), red), page=(90, 90))
    (tmp_path / "a.svg").write_bytes(write_svg(on))
    found = prove(tmp_path / "a.svg", BURNT)
    assert found.cut_length_mm == pytest.approx(280, abs=0.01)
    work = {each.operation: each for each in found.work}
    assert list(work) == ["engrave", "cut"]  # in the order of work
    assert work["cut"].length_mm == pytest.approx(280, abs=0.01)
    assert work["engrave"].length_mm == pytest.approx(400 * 40 + 399 * 0.1, rel=1e-3)
    assert sum(each.seconds for each in work.values()) == pytest.approx(found.seconds)
    knife = replace(BURNT, machine=replace(BURNT.machine, raster_mm_s=0.0))
    followed = {each.operation: each for each in prove(tmp_path / "a.svg", knife).work}
    assert followed["engrave"].length_mm == pytest.approx(160, abs=0.01)


def test_a_driver_of_a_real_machine_could_stand_in_its_place():
    class Timed:
        name = "measured"

        def run(self, bodies, ticket):
            return replace(dry_run(bodies, ticket), moves=(Move("cut", np.zeros((2, 2)), 0, 77, 0),))

    on = sheet(outline("a", square(20, 5, 5)))
    found = read_back(on, on, workshop(), "plain", Timed())
    assert (found.run.seconds, found.proof.seconds, found.before.seconds) == (77, 77, 77)


def test_inner_before_outer_and_the_nearest_next():
    ring = body(square(40, 10, 10), square(10, 20, 20).reversed())
    far, near = body(square(10, 200, 10)), body(square(10, 60, 10))
    cuts = [move for move in dry_run([far, ring, near], LASER).moves if move.kind == "cut"]
    assert [round(float(np.ptp(move.points[:, 0]))) for move in cuts] == [10, 40, 10, 10]
    assert [move.body for move in cuts] == [1, 1, 2, 0]


def test_plasma_pierces_on_what_falls_away_and_a_knife_runs_over_its_start():
    plasma = parse_ticket('[machine]\nprofile = "plasma"')
    leads = [
        move
        for move in dry_run([body(square(40, 10, 10), square(20, 20, 20).reversed())], plasma).moves
        if move.kind == "lead"
    ]
    (hole, outer) = (lead.points[0] for lead in leads)
    assert shapely.box(20, 20, 40, 40).contains(shapely.Point(hole))
    assert not shapely.box(10, 10, 50, 50).covers(shapely.Point(outer))
    assert [lead.length_mm for lead in leads] == pytest.approx([plasma.machine.lead_mm, plasma.machine.lead_mm])
    knife = parse_ticket('[machine]\nprofile = "film-knife"')
    assert dry_run([body(square(50))], knife).length_mm("cut") == pytest.approx(200 + knife.machine.overcut_mm)
    line = Body(polygon((100, 0), (5, 0), closed=False), None, "#000000", False)
    assert dry_run([line], knife).moves[0].points[-1].tolist() == [5.25, 0]  # at its nearer end, ahead of the blade


def test_a_jet_runs_half_a_kerf_beside_the_line():
    """Outside a part the way encloses A + P r + π r² (J. Steiner, 1840), inside a square counter (a - 2 r)²."""
    ticket = parse_ticket('[machine]\nprofile = "laser"\nkerf = "1.2 mm"')
    run = dry_run([body(square(40, 10, 10), square(20, 20, 20).reversed(), square(1, 42, 42).reversed())], ticket)
    tight, hole, outer = sorted((move for move in run.moves if move.kind == "cut"), key=lambda move: move.length_mm)
    assert shapely.Polygon(hole.way).area == pytest.approx(18.8**2)
    assert shapely.Polygon(outer.way).area == pytest.approx(1600 + 160 * 0.6 + math.pi * 0.6**2, abs=0.01)
    assert np.hypot(*(hole.way[0] - hole.points[0])) == pytest.approx(0.6 * math.sqrt(2))
    assert tight.head is None
    assert run.pinched == ((42.0, 42.0),)
    assert run.at(run.seconds)[:2] == pytest.approx(tuple(outer.way[-1]))


def test_a_blade_trails_its_holder_and_turns_on_the_spot():
    knife = parse_ticket('[machine]\nprofile = "film-knife"\nblade_offset = "0.5 mm"')
    (cut,) = (move for move in dry_run([body(square(50, 10, 10))], knife).moves if move.kind == "cut")
    away = shapely.LineString(cut.points).distance(shapely.points(cut.way))
    assert away.max() == pytest.approx(0.5)  # on the arcs about the corners
    steps = np.linalg.norm(np.diff(cut.way, axis=0), axis=1)
    assert steps.sum() == pytest.approx(200 + knife.machine.overcut_mm + 4 * math.pi / 4 - 4 * 0.5 + 4 * 0.5, abs=0.05)


def test_lines_begin_at_corners_and_smooth_ones_at_nodes():
    drop = parse_path_data("M30 10C50 30 50 50 30 50C10 50 10 30 30 10Z", 1e-3).path
    (cut,) = (move for move in dry_run([body(drop)], LASER).moves if move.kind == "cut")
    assert cut.points[0].tolist() == [30, 10]  # its one corner, although other places are nearer
    (cut,) = (move for move in dry_run([body(circle(10, 50, 50))], LASER).moves if move.kind == "cut")
    assert {tuple(np.round(cut.points[0] - 50, 9))} <= {(-10, 0), (0, -10)}


def test_what_goes_wrong_is_found_where_it_does():
    """A plate with an O cut into it, whose middle falls; a line along another; a bar through a block."""
    plate = Body(concat([square(100), circle(30, 50, 50).reversed(), circle(10, 50, 50)]), "#000000", None, False)
    (ring,) = mishaps([plate], LASER).falling
    assert shapely.Polygon(ring).area == pytest.approx(math.pi * 100, rel=1e-2)
    assert not mishaps([plate], parse_ticket('[machine]\nprofile = "film-knife"')).falling
    along = mishaps([body(square(40)), body(square(40, 40, 0))], LASER)
    assert sum(np.linalg.norm(np.diff(line, axis=0), axis=1).sum() for line in along.twice) == pytest.approx(
        40, abs=0.5
    )
    block, bar = Body(square(40), "#000000", None, False), Body(square(40, 20, 0), "#000000", None, False)
    across = mishaps([block, bar], LASER).through
    assert sum(np.linalg.norm(np.diff(line, axis=0), axis=1).sum() for line in across) == pytest.approx(
        2 * 39.9, abs=0.5
    )


def test_stand_ins_read_a_file_each_in_its_own_way(tmp_path):
    """Units: CSS Values, 1 in = 25.4 mm; the file's numbers are millimetres."""
    ring = outline("ring", concat([square(72, 10, 10), square(36, 20, 20)]))  # one sense: only even-odd sees a hole
    (tmp_path / "a.svg").write_bytes(write_svg(sheet(ring)))
    read = {name: standin.read(tmp_path / "a.svg") for name, standin in stand_ins().items()}
    assert next(iter(read)) == "plain"
    assert read["plain"].bodies[0].even_odd is False
    assert read["even-odd"].bodies[0].even_odd is True
    width = {name: bounds(found.bodies[0].path) for name, found in read.items() if found.bodies}
    assert width["plain"][2] - width["plain"][0] == pytest.approx(72, abs=1e-3)
    assert width["seventy-two"][2] - width["seventy-two"][0] == pytest.approx(25.4, abs=1e-3)
    assert width["ninety"][2] - width["ninety"][0] == pytest.approx(25.4 * 72 / 90, abs=1e-3)
    styled = write_svg(sheet(ring)).replace(b'fill="#000000"', b'style="fill:#ff0000"')
    (tmp_path / "b.svg").write_bytes(styled)
    assert stand_ins()["plain"].read(tmp_path / "b.svg").bodies[0].fill == "#ff0000"
    assert stand_ins()["strict"].read(tmp_path / "b.svg").bodies[0].fill == "#000000"


@pytest.mark.parametrize(
    ("text", "reason"),
    [("name = ", "not valid TOML"), ("says = 'x'", "name: is missing"), ("name = 'a'\nglue = 1", "unknown field"),
     ("name = 'a'\nper_inch = true", "per_inch: must be a number"), ("name = 'a'\nfill_rule = 'odd'", "fill_rule: must be one of even-odd, nonzero")],
)  # fmt: skip
def test_a_stand_in_that_cannot_be_read_says_why(text, reason):
    with pytest.raises(InputError, match=reason):
        parse_habits(text, "x.toml")


def test_what_was_meant_beside_what_was_read():
    ring = outline("ring", concat([square(72, 10, 10), square(36, 20, 20)]))
    on = sheet(ring)
    assert read_back(on, on, workshop(), "plain").differences == ()
    assert read_back(on, on, workshop(), "even-odd").differences == (
        "0 counters were meant, 1 arrived",
        "5184.0 mm² of material were meant, 3888.0 mm² arrived",
    )
    (small,) = read_back(on, on, workshop(), "seventy-two").differences[:1]
    assert small == "72.00 × 72.00 mm were meant, 25.40 × 25.40 mm arrived"


def test_a_run_in_portions_leaves_nothing_out():
    """Portions of a move meet in a point and make all of it; as many are done as lie before a moment."""
    run = dry_run([body(circle(40, 50, 50)), body(circle(10, 50, 50))], LASER)
    portions = Portions(run, 7)
    ends = [move.stop_s for move in run.moves]
    numbers = [portions.done(moment) for moment in (0.0, *ends)]
    assert numbers == sorted(numbers)
    drawn = {}
    for number in range(numbers[-1]):
        move, since, until = portions.portion(number)
        drawn.setdefault(id(move), []).append(between(move.points, since, until))
    assert len(drawn) == len(run.moves)
    for move in run.moves:
        parts = drawn[id(move)]
        assert max(map(len, parts)) <= 8
        assert all(np.array_equal(one[-1], other[0]) for one, other in itertools.pairwise(parts))
        together = np.concatenate([parts[0], *(part[1:] for part in parts[1:])])
        assert np.array_equal(together, move.points)
