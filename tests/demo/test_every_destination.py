"""Every job of the demonstration goes to the three places that its ticket names, and other people's parsers open it:
with equal sizes, in one order, in the ticket's colours.

SVG is opened by lxml and fontTools (SVG 1.1, "Paths"; CSS Values 3, one inch is 25.4 mm), DXF by ezdxf (DXF reference,
group codes 8, 370 and 420), PDF by PDFium (ISO 32000-1), HPGL by its grammar (HP-GL/2 reference: 40 units a millimetre; from
memory).
"""

import os
import re
from dataclasses import dataclass

import ezdxf
import ezdxf.bbox
import numpy as np
import pypdfium2
import pytest
from fontTools.pens.boundsPen import BoundsPen
from fontTools.svgLib.path import parse_path
from lxml import etree

from unkelt.app.work import mended, opened
from unkelt.demo.hollin_quay import make_demo
from unkelt.geometry.measure import bounds, join_boxes
from unkelt.job.beside import ticket_beside
from unkelt.job.workshop import standard_workshop
from unkelt.recipe import read_recipe
from unkelt.release.package import release
from unkelt.sheet.appearance import Operation

ORDER = {Operation.ENGRAVE: 0, Operation.SCORE: 1, Operation.CUT: 2}
PENS = {"3": "engrave", "2": "score", "1": "cut"}
ALL = (
    "sea-thrift", "kittiwake", "berth-12", "port-arc", "fascia", "tags", "porthole", "film-name", "big-letter", "berth-tag",
    "fascia-name", "life-ring",
)  # fmt: skip
JOBS = (
    ALL
    if os.environ.get("UNKELT_ALL_JOBS")
    else ("kittiwake", "fascia", "tags", "film-name", "berth-tag", "fascia-name")
)
"""One of each kind: film with its backing, a tag with engraving and a cut, plasma with open lines. All of them where the
variable is set; each takes as long as a release to three places.
"""
CLEAN = {"sea-thrift", "kittiwake", "berth-12", "fascia", "film-name", "big-letter", "berth-tag", "life-ring"}
"""Once mended. What holds of the others is for a person: they go out with a reason."""


@dataclass
class Seen:
    """What a parser sees: the size in mm, how sure that is, and what is done in the file's order, or its colours."""

    size: tuple[float, float]
    within: float
    work: list[str]


def by_lxml(path):
    root = etree.parse(path).getroot()
    box = [float(value) for value in root.get("viewBox").split()]
    number_mm = float(root.get("width").removesuffix("mm")) / box[2]
    corners, colours = [], []
    for element in root.iter("{*}path"):
        pen = BoundsPen(None)
        parse_path(element.get("d"), pen)
        corners.append(np.array(pen.bounds) * number_mm)
        colours.append(element.get("stroke") or element.get("fill"))
    size = np.max(corners, axis=0)[2:] - np.min(corners, axis=0)[:2]
    return Seen(tuple(size), 0.01, colours), number_mm


def by_ezdxf(path, key):
    document = ezdxf.readfile(path)
    assert not document.audit().has_errors
    entities = list(document.modelspace())
    for layer in {entity.dxf.layer for entity in entities} & {operation.value for operation in ORDER}:
        red, green, blue = document.layers.get(layer).rgb
        assert key[f"#{red:02x}{green:02x}{blue:02x}"] == layer
    extents = ezdxf.bbox.extents(entities)
    return Seen((extents.size.x, extents.size.y), 0.06, [entity.dxf.layer for entity in entities])


def by_pdfium(path):
    page = pypdfium2.PdfDocument(path)[0]
    scale = min(4000 / max(page.get_size()), 8)
    pixels = np.asarray(page.render(scale=scale).to_pil().convert("RGB"))
    rows, columns = np.nonzero((pixels < 250).any(axis=2))
    mm = 25.4 / 72 / scale
    return Seen(((np.ptp(columns) + 1) * mm, (np.ptp(rows) + 1) * mm), 4 * mm + 0.3, [])


def by_grammar(path):
    text = path.read_text("ascii")
    places = np.array([[int(x), int(y)] for x, y in re.findall(r"(-?\d+),(-?\d+)", text.rsplit("PU0,0", 1)[0])]) / 40
    return Seen(tuple(np.ptp(places, axis=0)), 0.06, [PENS.get(pen, "?") for pen in re.findall(r"SP([1-4]);", text)])


@pytest.fixture(scope="module")
def quay(tmp_path_factory):
    folder = tmp_path_factory.mktemp("quay")
    make_demo(folder)
    return folder


@pytest.mark.parametrize("job", JOBS)
def test_a_job_is_opened_by_other_peoples_parsers_wherever_it_goes(job, quay, tmp_path):
    source, recipe = quay / f"{job}.svg", quay / f"{job}-recipe.toml"
    ticket = ticket_beside(source).ticket
    case = mended(opened(source, standard_workshop(ticket), 1), read_recipe(recipe) if recipe.exists() else None)
    package = release(case, tmp_path, reason="" if job in CLEAN else "shown as it is")
    assert package.left_out == ()
    assert len({each.destination.name for each in package.record.delivered}) == 3
    for each in package.record.delivered:
        path = package.folder / each.proof.path
        habits = each.destination.habits
        outlines = [o for o in each.part.sheet.outlines() if ticket.operation(o.look) is not Operation.LEAVE]
        x0, y0, x1, y1 = join_boxes([box for o in outlines if (box := bounds(o.path))])
        wanted = [ticket.operation(outline.look) for outline in outlines]
        if path.suffix == ".svg":
            seen, number_mm = by_lxml(path)
            assert number_mm == pytest.approx(25.4 / habits.per_inch if habits.per_inch else 1, rel=1e-4)
            work = [ticket.key.get(colour) for colour in seen.work]
            assert {*seen.work} == {outline.look.colour for outline in outlines}
        elif path.suffix == ".pdf":
            seen, work = by_pdfium(path), []
        else:
            seen = by_ezdxf(path, ticket.key) if path.suffix == ".dxf" else by_grammar(path)
            work = [Operation(name) if name in ("cut", "score", "engrave") else None for name in seen.work]
            assert {*work} == {*wanted}
        assert seen.size == pytest.approx((x1 - x0, y1 - y0), abs=seen.within)
        known = [ORDER[operation] for operation in work if operation is not None]
        assert known == sorted(known), "engraved, then scored, then cut"
