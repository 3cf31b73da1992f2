"""What lies on the desk at Hollin Quay, the boatyard that letters boats.

sea-thrift   a boat's name in a script, as live text: the whole way from text to one compound path
kittiwake    a name that somebody converted: overlaps, a letter twice, a broken contour, far too many nodes
berth-12     a berth tag in which nothing may be found
"""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path as FilePath

import numpy as np
from fontTools.misc.transform import Transform

from unkelt.demo.compositions import NAMES, composition_files
from unkelt.demo.tickets import ticket_text
from unkelt.demo.workbench import workbench_files
from unkelt.errors import InputError
from unkelt.formats.files import write_whole
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.measure import halve
from unkelt.geometry.path import CUBIC, Path, concat
from unkelt.job.ticket import parse_ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.lettering.setting import set_lettering
from unkelt.lettering.shelves import bundled_faces
from unkelt.mending import mend
from unkelt.messages import say
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Group, Lettering, Outline, Run, Sheet

CUT = "#0b5d4c"
ENGRAVE = "#20262b"

SEA_THRIFT_TICKET = ticket_text(
    "Sea Thrift transom", "film-knife", ("600 mm", "5 m"), width="900 mm", of="ink", chord="0.02 mm"
)
KITTIWAKE_TICKET = ticket_text(
    "Kittiwake transom", "film-knife", ("600 mm", "5 m"), width="900 mm", of="ink", chord="0.02 mm"
)
BERTH_TICKET = ticket_text("Berth tag 12", "laser", ("600 mm", "400 mm"), width="60 mm", of="cut", chord="0.02 mm")

DEMO_FILES = (
    "sea-thrift.svg",
    "kittiwake.svg",
    "berth-12.svg",
    "port-arc.svg",
    "fascia.svg",
    "tags.svg",
    "parcel.svg",
    "porthole.svg",
    "snapshot.svg",
)
COMPOSED = tuple(f"{name}.svg" for name in NAMES)
"""Jobs that come with the recipe that makes them."""


def make_demo(folder: FilePath) -> list[FilePath]:
    """Writes the demonstration files with their tickets into `folder`, which is made if need be; the paths of all.

    What is there already is never written over: somebody may have worked on it. Raises InputError.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise InputError(str(folder), say("can't be made: {reason}", reason=problem.strerror or problem)) from problem
    made = {
        "sea-thrift": (_sea_thrift(), SEA_THRIFT_TICKET),
        "kittiwake": (_kittiwake(), KITTIWAKE_TICKET),
        "berth-12": (_berth_12(), BERTH_TICKET),
    }
    files: dict[str, bytes] = {}
    for name, (sheet, ticket) in made.items():
        files |= {f"{name}.svg": write_svg(sheet), f"{name}.toml": ticket.encode()}
    for name, (data, ticket) in workbench_files().items():
        files |= {f"{name}.svg": data} | ({f"{name}.toml": ticket.encode()} if ticket else {})
    for name, (data, ticket, steps) in composition_files().items():
        files |= {f"{name}.svg": data, f"{name}.toml": ticket.encode(), f"{name}-recipe.toml": steps.encode()}
    for name, data in files.items():
        if not (folder / name).exists():
            write_whole(folder / name, data)
    return [folder / name for name in files if name.endswith(".svg")]


def _shelf() -> Shelf:
    """Only what comes with the product, so that the files are the same everywhere."""
    return Shelf(bundled_faces())


def _word(item_id: str, text: str, family: str, size_mm: float, colour: str, x: float, y: float) -> Lettering:
    run = Run(text, FaceQuery((family,)), size_mm, Appearance(fill=colour), at=(x, y))
    return Lettering(item_id, (run,))


def _sea_thrift() -> Sheet:
    return Sheet((1000.0, 400.0), (_word("name", "Sea Thrift", "Pacifico", 200, CUT, 52, 240),))


def _kittiwake() -> Sheet:
    lettering = _word("kittiwake", "Kittiwake", "Dancing Script", 250, CUT, 66, 260)
    outlines = []
    for index, glyph in enumerate(set_lettering(lettering, _shelf()).glyphs, 1):
        path = _over_noded(glyph.path(), 3)
        outlines.append(Outline(f"letter-{index}", path, Appearance(fill=CUT), glyph.letters))
    # The last letter is there twice: run backwards, a hair beside itself.
    again = outlines[-1].path.reversed().transformed(Transform(1, 0, 0, 1, 0.002, 0.001))
    outlines.append(replace(outlines[-1], id="letter-10", path=again))
    outlines[5] = replace(outlines[5], path=_broken(outlines[5].path, 0.12))
    return Sheet((1000.0, 400.0), (Group("name", tuple(outlines), "Kittiwake"),))


def _over_noded(path: Path, halvings: int) -> Path:
    """Every segment cut in half, again and again: what careless conversions do."""
    points = path.cubics()
    for _ in range(halvings):
        points = np.stack(halve(points), axis=1).reshape(-1, 4, 2)
    times = 2**halvings
    return Path(points, np.full(len(points), CUBIC, np.uint8), path.starts * times, path.closed)


def _broken(path: Path, gap_mm: float) -> Path:
    """The first subpath left open, its end short of its start by `gap_mm`."""
    first, rest = path.subpath(0), path.select(list(range(1, len(path))))
    points = first.points.copy()
    way = points[0, 0] - points[-1, 2]
    points[-1, 3] = points[-1, 3] - gap_mm * way / np.linalg.norm(way)
    return concat([Path(points, first.degrees, first.starts, np.array([False])), rest])


def _berth_12() -> Sheet:
    """A plywood tag, 60 by 36 mm, with a hang hole and its number engraved; mended, so that nothing is left to find."""
    tag = parse_path_data("M8 4H56a4 4 0 0 1 4 4V32a4 4 0 0 1-4 4H8a4 4 0 0 1-4-4V8a4 4 0 0 1 4-4Z", 0.002).path
    tag = tag.transformed(Transform(60 / 56, 0, 0, 60 / 56, 6 - 4 * 60 / 56, 6 - 4 * 60 / 56))
    look = Appearance(fill=None, stroke=CUT, stroke_width_mm=0.1)
    outline = Outline("tag", concat([tag, _circle(15, 23.15, 2.65)]), look, "Tag with hang hole")
    number = _word("number", "12", "Alfa Slab One", 24, ENGRAVE, 24, 31.6)
    sheet = Sheet((72.0, 46.3), (outline, number))
    workshop = Workshop(parse_ticket(BERTH_TICKET), _shelf())
    return mend(sheet, workshop)[-1].sheet


def _circle(cx: float, cy: float, r: float) -> Path:
    return parse_path_data(f"M{cx - r} {cy}a{r} {r} 0 1 0 {2 * r} 0a{r} {r} 0 1 0 {-2 * r} 0Z", 0.002).path
