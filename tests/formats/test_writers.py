"""What is written, read back by other libraries: counts, bounds, areas, units, and that nothing is dropped."""

import re
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

import ezdxf
import numpy as np
import pyogrio.raw
import pypdf
import pytest
import shapely
from fontTools.misc.transform import Transform
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree

from tests.builders import circle, glyph_paths, lettering, moved, outline, ring, sheet, square, workshop
from unkelt.demo import make_demo
from unkelt.errors import InputError
from unkelt.formats.dxf.read import read_dxf
from unkelt.formats.formats import WRITERS, read_sheet, write_sheet
from unkelt.formats.pdf.read import read_pdf
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import bounds, signed_areas
from unkelt.geometry.path import concat, polygon
from unkelt.job.ticket import parse_ticket
from unkelt.mending import mend
from unkelt.proof.importer import import_file
from unkelt.release.sheets import by_operations
from unkelt.sheet.appearance import Appearance, uneven_pen
from unkelt.sheet.model import Outline, Picture
from unkelt.sheet.pens import stroke_region

TICKET = parse_ticket('[key]\ncut = ["#0b5d4c"]\nengrave = ["#20262b"]')
CUT = Appearance(fill=None, stroke="#0b5d4c", stroke_width_mm=0.1)


def work():
    word = Outline(
        "word",
        concat([moved(path, 20, 20) for path in glyph_paths("Bobo8", "Pacifico", 60)]),
        Appearance(fill="#20262b"),
    )
    frame = Outline("frame", square(90, 5, 5), CUT)
    hole = Outline("hole", ring(8, 5, 260, 60), CUT)
    return sheet(word, frame, hole, page=(300, 120))


@pytest.mark.parametrize("ending", list(WRITERS))
def test_every_format_keeps_size_place_and_area(tmp_path, ending):
    on, path = work(), tmp_path / f"a{ending}"
    write_sheet(on, path, TICKET)
    first = path.read_bytes()
    write_sheet(on, path, TICKET)
    assert path.read_bytes() == first  # the same sheet always gives the same file
    found = concat([body.path for body in import_file(path).bodies])
    whole = concat([o.path for o in on.outlines()])
    exact = ending != ".plt"
    assert len(found) == len(whole)
    ours, theirs = np.array(bounds(whole)), np.array(bounds(found))
    if exact:
        assert theirs == pytest.approx(ours, abs=2e-3)
    else:  # a plotter's origin is the lower edge of what it draws
        assert theirs[2:] - theirs[:2] == pytest.approx(ours[2:] - ours[:2], abs=0.03)
    area = np.sort(np.abs(signed_areas(found)))
    assert area == pytest.approx(np.sort(np.abs(signed_areas(whole))), rel=1e-4 if exact else 5e-3)


@pytest.mark.parametrize("ending", [".svg", ".pdf"])
@given(
    width=st.floats(0.2, 6),
    join=st.sampled_from(["miter", "round", "bevel"]),
    cap=st.sampled_from(["butt", "round", "square"]),
    limit=st.floats(1, 12),
    dashes=st.lists(st.floats(0.5, 9), max_size=3),
    offset=st.floats(-20, 20),
    skew=st.none() | st.tuples(st.floats(0.3, 3), st.floats(-1, 1)),
    opacities=st.tuples(st.floats(0.2, 1), st.floats(0.2, 1)),
    below=st.booleans(),
)
@settings(max_examples=25)
def test_every_stroke_comes_back_as_it_was(ending, width, join, cap, limit, dashes, offset, skew, opacities, below):
    """Width, corners, ends, dashes, slant and opacity, through formats that can say them: the same ink."""
    look = Appearance(
        "#ffcc00",
        "#0b5d4c",
        width,
        join,
        cap,
        limit,
        dashes_mm=tuple(dashes),
        dash_offset_mm=offset if dashes else 0.0,
        pen=uneven_pen(skew[0], 0, skew[1], 1 / skew[0]) if skew else None,
        fill_opacity=opacities[0],
        stroke_opacity=opacities[1],
        stroke_below=below,
    )
    line = Outline("a", polygon((30, 20), (70, 25), (60, 60), (31, 40), (45, 70), closed=False), look)
    with TemporaryDirectory() as folder:
        path = Path(folder) / f"a{ending}"
        write_sheet(sheet(line, page=(100, 90)), path)
        found = read_sheet(path).outlines()
    strokes = [each for each in found if each.look.stroke]
    assert len(strokes) == 1
    was, now = (stroke_region(each.path, each.look, 0.002) for each in (line, strokes[0]))
    assert shapely.area(shapely.symmetric_difference(was, now)) < 0.02 + 2e-3 * was.area
    assert strokes[0].look.stroke_opacity == pytest.approx(opacities[1], abs=0.005)
    filled = next(each for each in found if each.look.fill)
    assert filled.look.fill_opacity == pytest.approx(opacities[0], abs=0.005)
    assert below == (strokes[0].look.stroke_below or found.index(strokes[0]) < found.index(filled))


NUMBER = r"[+-]?(?:\d+\.\d*|\.\d+|\d+)(?:[eE][+-]?\d+)?"
ARGUMENTS = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "A": 7}


def test_svg_is_valid_against_the_specification(tmp_path):
    """The document type definition of SVG 1.1 (second edition), and its grammar of path data (section 8.3.9)."""
    grammar = etree.DTD(str(Path(__file__).parent / "svg11" / "svg11.dtd"))
    demo = tmp_path / "demo"
    make_demo(demo)
    for path in sorted(demo.glob("*.svg")):
        stages = mend(on := read_sheet(path), workshop())
        written = etree.fromstring(write_svg(by_operations(stages[-1].sheet if stages else on, workshop(TICKET))))
        assert grammar.validate(written), (path.name, list(grammar.error_log)[:2])
        for data in written.xpath("//@d"):
            for command, numbers in re.findall(r"([A-DF-Za-df-z])([^A-DF-Za-df-z]*)", data):
                count = len(re.findall(NUMBER, numbers))
                assert not re.sub(NUMBER, "", numbers).strip(" ,"), (path.name, command, numbers)
                assert count == 0 if command in "Zz" else count and count % ARGUMENTS[command.upper()] == 0
    assert not grammar.validate(etree.fromstring('<svg xmlns="http://www.w3.org/2000/svg"><path e="M0 0"/></svg>'))


def test_dxf_has_units_layers_and_exact_curves(tmp_path):
    write_sheet(work(), tmp_path / "a.dxf", TICKET)
    document = ezdxf.readfile(tmp_path / "a.dxf")
    assert document.header["$INSUNITS"] == 4  # millimetres, DXF reference
    assert not document.audit().has_errors
    layers = {(entity.dxf.layer, entity.dxftype()) for entity in document.modelspace()}
    assert layers == {("engrave", "SPLINE"), ("cut", "LWPOLYLINE"), ("cut", "SPLINE")}
    again = concat([o.path for o in read_dxf(tmp_path / "a.dxf").outlines()])
    assert again.node_count == concat([o.path for o in work().outlines()]).node_count
    # GDAL flattens, and y runs up.
    meta, _, shapes, _ = pyogrio.raw.read(tmp_path / "a.dxf")
    assert meta["geometry_type"]
    box = shapely.total_bounds(shapely.from_wkb(shapes))
    x0, y0, x1, y1 = bounds(concat([o.path for o in work().outlines()]))
    assert box == pytest.approx((x0, 120 - y1, x1, 120 - y0), abs=0.1)


def test_dxf_in_straight_lines_keeps_within_the_chord(tmp_path):
    ticket = replace(TICKET, machine=replace(TICKET.machine, lines_only=True))
    write_sheet(work(), tmp_path / "a.dxf", ticket)
    entities = ezdxf.readfile(tmp_path / "a.dxf").modelspace()
    assert {entity.dxftype() for entity in entities} == {"LWPOLYLINE"}
    drawn = []
    for entity in entities:
        places = [(x, 120 - y) for x, y, *_ in entity.get_points()]
        drawn.append(shapely.LineString([*places, places[0]] if entity.closed else places))
    curves = lines(concat([o.path for o in work().outlines()]), 1e-4)
    assert shapely.hausdorff_distance(shapely.multilinestrings(drawn), curves, 0.25) <= 0.02 + 1e-4


def test_svg_has_no_more_decimals_than_the_tolerance_needs(tmp_path):
    for chord, places in (("0.02 mm", 3), ("0.2 mm", 2), ("0.001 mm", 5)):
        ticket = parse_ticket(f'[machine]\nchord = "{chord}"')
        write_sheet(work(), tmp_path / "a.svg", ticket)
        numbers = re.findall(r"\.(\d+)", " ".join(re.findall(r' d="([^"]*)"', (tmp_path / "a.svg").read_text())))
        assert max(map(len, numbers)) == places
        for before, after in zip(work().outlines(), read_sheet(tmp_path / "a.svg").outlines(), strict=True):
            moved = np.linalg.norm(before.path.points - after.path.points, axis=2).max()
            assert moved <= 0.05 * ticket.tolerance.chord_mm


def test_pdf_is_one_page_at_true_size_in_vectors(tmp_path):
    write_sheet(work(), tmp_path / "a.pdf", TICKET)
    page = pypdf.PdfReader(tmp_path / "a.pdf").pages[0]
    assert [float(v) for v in page.mediabox] == pytest.approx([0, 0, 300 / 25.4 * 72, 120 / 25.4 * 72], abs=1e-3)
    operators = {operator for _, operator in pypdf.generic.ContentStream(page.get_contents(), None).operations}
    assert {b"c", b"l", b"f", b"S", b"h"} <= operators
    assert not operators & {b"Tj", b"TJ", b"Do"}
    again = read_pdf(tmp_path / "a.pdf")
    assert (
        concat([o.path for o in again.outlines()]).node_count == concat([o.path for o in work().outlines()]).node_count
    )


def test_hpgl_follows_the_grammar_and_its_units(tmp_path):
    write_sheet(sheet(Outline("s", square(10, 5, 5), CUT), page=(50, 40)), tmp_path / "a.plt", TICKET)
    text = (tmp_path / "a.plt").read_text().replace("\n", "")
    assert re.fullmatch(r"(?:[A-Z]{2}(?:-?\d+(?:,-?\d+)*)?;)+", text)
    # 40 units a millimetre; 40 mm page, y up: the square's top edge, 5 mm down, lies at 1400.
    assert text == "IN;PA;SP1;PU200,1400;PD600,1400,600,1000,200,1000,200,1400;PU0,0;SP0;"


ORDERED = parse_ticket('[key]\ncut = ["#ff0000"]\nscore = ["#0000ff"]\nengrave = ["#000000"]')


def mixed():
    """Cut outside and inside, scored and engraved, in the wrong order."""
    line = Appearance(fill=None, stroke="#ff0000", stroke_width_mm=0.1)
    return sheet(
        Outline("outer", ring(50, 20, 100, 60), line),
        Outline("inner", circle(4, 60, 60), line),
        Outline("scored", square(5, 120, 40), replace(line, stroke="#0000ff")),
        Outline("engraved", square(6, 90, 20), Appearance(fill="#000000")),
        page=(200, 120),
    )


@pytest.mark.parametrize("ending", list(WRITERS))
def test_every_format_says_one_order_engrave_score_inner_cuts_outer_cuts(tmp_path, ending):
    """The order by which nothing is loose before it is done (common practice, no source), by readers of others."""
    on = by_operations(mixed(), workshop(ORDERED))
    write_sheet(on, tmp_path / f"a{ending}", ORDERED)
    sizes = {6: "engraved", 5: "scored", 8: "inner", 40: "hole", 100: "outer"}
    found = []
    for body in import_file(tmp_path / f"a{ending}").bodies:
        for part in body.path.subpaths():
            x0, _, x1, _ = bounds(part)
            found.append(sizes[min(sizes, key=lambda size: abs(size - (x1 - x0)))])
    assert found[:3] == ["engraved", "scored", "inner"]
    assert set(found[3:]) == {"hole", "outer"}
    if ending in (".dxf", ".plt"):
        assert found[3:] == ["hole", "outer"]
    if ending == ".dxf":
        document = ezdxf.readfile(tmp_path / "a.dxf")
        layers = {layer.dxf.name: (layer.dxf.color, layer.rgb) for layer in document.layers}
        assert layers["cut"] == (1, (255, 0, 0))
        assert layers["score"] == (5, (0, 0, 255))
        assert layers["engrave"] == (7, (0, 0, 0))


@pytest.mark.parametrize("ending", [".dxf", ".pdf", ".plt"])
def test_what_a_format_cannot_carry_is_refused_and_nothing_is_written(tmp_path, ending):
    for item, word in ((lettering(), "live text"), (Picture("p", (1, 1), Transform(), "a.png"), "picture")):
        with pytest.raises(InputError, match=word):
            write_sheet(sheet(outline("o", circle(3)), item), tmp_path / f"a{ending}", TICKET)
    assert list(tmp_path.iterdir()) == []
