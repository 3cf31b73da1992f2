"""Defects to plant in clean lettering: each function gives the sheet with the defect, and where it is."""

from __future__ import annotations

import pathlib
from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache

import numpy as np
import shapely
from fontTools.misc.transform import Transform

from tests.builders import SHELF, lettering, moved, outline, rolled, sheet, square, workshop
from unkelt.formats.svg.read import parse_svg
from unkelt.geometry.flatten import polylines
from unkelt.geometry.measure import bounds, halve, part
from unkelt.geometry.path import CUBIC, LINE, Path, concat, polygon
from unkelt.lettering.setting import set_lettering
from unkelt.mending import mend
from unkelt.recipe import Call, apply
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Outline, Picture, Sheet
from unkelt.survey.checks import survey

Planted = tuple[Sheet, tuple[float, float]]
HAIRLINE = Appearance(fill=None, stroke="#000000", stroke_width_mm=0.1)


@lru_cache(maxsize=32)
def clean(word: str, family: str) -> Sheet:
    """One compound path with no more nodes than it needs."""
    return with_room(mend(sheet(lettering(word, family, 90), page=(900, 300)), workshop())[-1].sheet)


DRAWINGS = pathlib.Path(__file__).parent / "corpus" / "drawings"
"""Drawings of an open-licence set (bootstrap-icons 1.10.3, MIT), as they came."""


@lru_cache(maxsize=32)
def clean_drawing(name: str) -> Sheet:
    """One of them at 120 mm, mended."""
    source = (DRAWINGS / f"{name}.svg").read_text(encoding="utf-8")
    large = source.replace('width="16" height="16"', 'width="120mm" height="120mm"').replace("currentColor", "#000000")
    drawn = parse_svg(large.encode(), name)
    stages = mend(drawn, workshop())
    return with_room(stages[-1].sheet if stages else drawn)


def clean_sheet(name: str, family: str) -> Sheet:
    """A word of a face, or a drawing where no face is named."""
    return clean(name, family) if family else clean_drawing(name)


def with_room(mended: Sheet) -> Sheet:
    mended = apply(Call("fit-page"), mended, workshop()).sheet
    mended = replace(mended, page_mm=(mended.page_mm[0] + 80, mended.page_mm[1] + 30))  # room beside the word
    assert survey(mended, workshop()) == ()
    return as_received(mended)


def as_received(on: Sheet) -> Sheet:
    """As if it were opened again: no line has moved yet."""
    return on.mapped(lambda item: replace(item, moved_mm=0.0) if isinstance(item, Outline) else item)


def body(on: Sheet) -> Outline:
    return on.outlines()[0]


def with_body(on: Sheet, path: Path) -> Sheet:
    return on.replaced({body(on).id: (replace(body(on), path=path),)})


def plant_open(on: Sheet) -> Planted:
    """The first contour left open by 0.1 mm."""
    path = body(on).path
    first = path.subpath(0)
    points = first.points.copy()
    way = points[-1, 3] - points[-1, 0 if first.degrees[-1] == LINE else 2]
    points[-1, 3] = points[-1, 3] - 0.1 * way / np.linalg.norm(way)
    if first.degrees[-1] == LINE:
        points[-1, 2] = points[-1, 3]
    opened = Path(points, first.degrees, first.starts, np.array([False]))
    rest = path.select(list(range(1, len(path))))
    return with_body(on, concat([opened, rest])), tuple(points[-1, 3])


def plant_duplicate(on: Sheet) -> Planted:
    """All contours once more, each from another node, a hair apart: one alone would fill a counter, or open one."""
    path = body(on).path
    again = concat([moved(rolled(part, 1), 0.003, -0.002) for part in path.subpaths()])
    x0, y0, x1, y1 = bounds(again.subpath(0))
    return with_body(on, concat([path, again])), ((x0 + x1) / 2, (y0 + y1) / 2)


def plant_nodes(on: Sheet) -> Planted:
    """Every segment in four: short enough to be needless, long enough not to be crowded."""
    path = body(on).path
    points = path.cubics()
    for _ in range(2):
        points = np.stack(halve(points), axis=1).reshape(-1, 4, 2)
    dense = Path(points, np.full(len(points), CUBIC, np.uint8), path.starts * 4, path.closed)
    x0, y0, x1, y1 = bounds(path)
    return with_body(on, dense), ((x0 + x1) / 2, (y0 + y1) / 2)


def plant_loose(on: Sheet) -> Planted:
    """The compound path taken apart to its pieces, each with its counters."""
    x0, y0, x1, y1 = bounds(body(on).path)
    bare = on.replaced({body(on).id: (replace(body(on), origin=None),)})
    return apply(Call("unbind"), bare, workshop()).sheet, ((x0 + x1) / 2, (y0 + y1) / 2)


def right_of(on: Sheet, gap: float = 15) -> tuple[float, float]:
    """A free place to the right of the word."""
    box = bounds(body(on).path)
    return box[2] + gap, (box[1] + box[3]) / 2


def beside(on: Sheet, *paths: Path) -> Sheet:
    """More subpaths for the word itself."""
    return with_body(on, concat([body(on).path, *paths]))


def plant_counters_apart(on: Sheet) -> Planted:
    """One letter with a counter taken apart to its rings."""
    path = body(on).path
    areas = [shapely.Polygon(ring) for ring in polylines(path, 0.05)]
    inner, _ = next((i, o) for i, a in enumerate(areas) for o, b in enumerate(areas) if i != o and b.contains(a))
    rest = path.select([k for k in range(len(path)) if k != inner])
    letter = replace(body(on), path=rest, origin=None)
    counter = replace(letter, id="counter", path=path.subpath(inner))
    x0, y0, x1, y1 = bounds(counter.path)
    return on.replaced({letter.id: (letter, counter)}), ((x0 + x1) / 2, (y0 + y1) / 2)


def plant_stray(on: Sheet) -> Planted:
    """A speck of a hundredth of a millimetre."""
    x, y = right_of(on)
    return beside(on, square(0.01, x, y)), (x, y)


def plant_spike(on: Sheet) -> Planted:
    """A pennant that runs out to a needle of 4°."""
    x, y = right_of(on)
    return beside(
        on,
        polygon(
            (x, y - 8), (x + 10, y - 8), (x + 10, y - 1), (x + 38, y), (x + 10, y + 1), (x + 10, y + 8), (x, y + 8)
        ).reversed(),
    ), (x + 38, y)


def plant_figure_of_eight(on: Sheet) -> Planted:
    """An outline of its own that crosses itself."""
    x, y = right_of(on)
    eight = outline(
        "eight",
        polygon(
            (x, y),
            (x + 30, y),
            (x + 30, y + 15),
            (x + 12, y + 15),
            (x + 12, y + 6),
            (x + 40, y + 6),
            (x + 40, y + 20),
            (x, y + 20),
        ),
    )
    return replace(on, items=(*on.items, eight)), (x + 20, y + 10)


def plant_winding(on: Sheet) -> Planted:
    """A ring whose hole runs the same way round, drawn even-odd."""
    x, y = right_of(on)
    ring = outline("ring", concat([square(20, x, y), square(10, x + 5, y + 5)]))
    return replace(on, items=(*on.items, replace(ring, look=replace(ring.look, even_odd=True)))), (x + 10, y + 10)


def plant_guide(on: Sheet) -> Planted:
    """The line under the feet of the letters."""
    x0, _, x1, _ = bounds(body(on).path)
    origin = body(on).origin
    ink = set_lettering(origin, SHELF).ink(origin.placement)
    y = bounds(body(on).path)[3] + origin.runs[0].at[1] - ink[3]
    line = Outline("line", polygon((x0 - 5, y), (x1 + 5, y), closed=False), HAIRLINE)
    return replace(on, items=(line, *on.items)), ((x0 + x1) / 2, y)


def plant_shared_edge(on: Sheet) -> Planted:
    """Two tags side by side."""
    x, y = right_of(on)
    tags = [Outline(f"tag-{n}", square(15, x + 15 * n, y), HAIRLINE) for n in range(2)]
    return replace(on, items=(*on.items, *tags)), (x + 15, y + 7)


def plant_missed_joint(on: Sheet) -> Planted:
    """A bar in two pieces, a tenth of a millimetre apart."""
    x, y = right_of(on)
    return beside(on, square(15, x, y).reversed(), square(15, x + 15.1, y).reversed()), (x + 15, y + 7)


def plant_overlap(on: Sheet) -> Planted:
    """Two squares, one over the other's corner, too far off to be letters of what is there."""
    x, y = right_of(on)
    x += 25
    both = [outline(f"square-{n}", square(15, x + 8 * n, y + 8 * n)) for n in range(2)]
    return replace(on, items=(*on.items, *both)), (x + 11, y + 11)


def plant_micro_segment(on: Sheet) -> Planted:
    """One curve cut a thousandth of a millimetre from its end."""
    path = body(on).path
    cubics, first = path.cubics(), int(np.argmax(np.linalg.norm(path.points[:, 3] - path.points[:, 0], axis=1)))
    length = float(np.linalg.norm(path.points[first, 3] - path.points[first, 0]))
    t = 1 - 1e-3 / length
    pieces = [part(cubics[first], 0, t), part(cubics[first], t, 1)]
    points = np.concatenate([cubics[:first], pieces, cubics[first + 1 :]])
    starts = path.starts + (path.starts > first)
    crowded = Path(points, np.full(len(points), CUBIC, np.uint8), starts, path.closed)
    x, y = points[first, 3]
    return with_body(on, crowded), (float(x), float(y))


def plant_stroke(on: Sheet) -> Planted:
    """A stroke of a millimetre around the word."""
    x0, y0, x1, y1 = bounds(body(on).path)
    thick = replace(body(on), look=replace(body(on).look, stroke="#000000", stroke_width_mm=1.0))
    return on.replaced({body(on).id: (thick,)}), ((x0 + x1) / 2, (y0 + y1) / 2)


def plant_hidden(on: Sheet) -> Planted:
    x, y = right_of(on)
    ghost = Outline("ghost", square(10, x, y), Appearance(visible=False))
    return replace(on, items=(*on.items, ghost)), (x + 5, y + 5)


def plant_picture(on: Sheet) -> Planted:
    x, y = right_of(on)
    return replace(on, items=(*on.items, Picture("gull", (10, 10), Transform(1, 0, 0, 1, x, y), "data:"))), (
        x + 5,
        y + 5,
    )


def plant_live_text(on: Sheet) -> Planted:
    x, y = right_of(on)
    word = replace(lettering("Hoy", "Arvo", 12), id="live", placement=Transform(1, 0, 0, 1, x - 20, y - 150))
    return replace(on, items=(*on.items, word)), (x + 8, y - 3)


def plant_off_page(on: Sheet) -> Planted:
    lost = outline("lost", square(10, -30, 20))
    return replace(on, items=(*on.items, lost)), (-25, 25)


PLANTS: dict[str, Callable[[Sheet], Planted]] = {
    "text.live": plant_live_text,
    "content.picture": plant_picture,
    "content.hidden": plant_hidden,
    "overlap.items": plant_overlap,
    "overlap.self": plant_figure_of_eight,
    "overlap.gap": plant_missed_joint,
    "compound.loose": plant_loose,
    "compound.winding": plant_winding,
    "compound.counter-apart": plant_counters_apart,
    "stroke.visible": plant_stroke,
    "path.open": plant_open,
    "path.duplicate": plant_duplicate,
    "path.shared-edge": plant_shared_edge,
    "path.stray": plant_stray,
    "path.guide": plant_guide,
    "nodes.excess": plant_nodes,
    "nodes.crowded": plant_micro_segment,
    "nodes.spike": plant_spike,
    "place.off-page": plant_off_page,
}
ON_WORDS_ONLY = {"path.guide", "compound.loose"}
"""What only lettering can have."""

MEANT_TOGETHER = {("nodes.excess", "nodes.crowded"), ("text.live", "size.frame")}
"""A short segment cut in four may be crowded, too; live text is told with its frame."""

LEFT_TO_A_PERSON = {
    "path.guide",  # a straight line: it may be a rule under the word
    "content.picture",
    "content.hidden",
    "overlap.gap",
    "path.shared-edge",
    "nodes.spike",
    "place.off-page",
}


def others(code: str, found: list[str]) -> list[str]:
    """What is reported beside the planted defect, and shouldn't be."""
    return [other for other in found if other != code and (code, other) not in MEANT_TOGETHER]


def nearest(finding, x: float, y: float) -> float:
    """How far a finding's places lie from where the defect was planted, in mm."""
    boxes = [box for box in (*finding.marks, finding.box, finding.focus) if box]
    return min(max(b[0] - x, x - b[2], b[1] - y, y - b[3], 0.0) for b in boxes)
