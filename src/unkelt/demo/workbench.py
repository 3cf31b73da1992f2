"""Files as they arrive at Hollin Quay on a bad day: between them they hold every defect that a file can.

port-arc     a port's name on an arc, live, with the arc left in the file
fascia       steel letters: counters fallen out of their letters, a spike, hairlines, slits, joints that missed
tags         berth tags laid edge to edge: shared edges, copies, scraps, colours that are almost right
parcel       what a stranger sent: no units, a face that isn't here, pictures, effects, broken references
porthole     a number in a round frame that touches it nowhere: cut out of steel, it falls on the floor
snapshot     a photograph of a name, in a drawing without a line in it
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from unkelt.demo.tickets import ticket_text
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.path import Path, concat, polygon
from unkelt.lettering.faces import Shelf
from unkelt.lettering.guides import circle
from unkelt.lettering.setting import set_lettering
from unkelt.lettering.shelves import bundled_faces
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Group, Item, Lettering, Outline, Run, Sheet

CUT, SCORE, ENGRAVE = "#0b5d4c", "#8a6d1a", "#20262b"
LINE = Appearance(fill=None, stroke=CUT, stroke_width_mm=0.1)
STEEL = Appearance(fill=CUT)

PORT_ARC = b"""<?xml version="1.0" encoding="UTF-8"?>
<svg xmlns="http://www.w3.org/2000/svg" width="420mm" height="220mm" viewBox="0 0 420 220">
 <path id="arc" d="M40 190A180 180 0 0 1 380 190" fill="none" stroke="#0b5d4c" stroke-width="0.1"/>
 <text id="port" font-family="Barlow" font-weight="600" font-size="36" fill="#0b5d4c" text-anchor="middle"><textPath href="#arc" startOffset="50%">HOLLIN QUAY</textPath></text>
</svg>
"""

PARCEL = b"""<?xml version="1.0" encoding="UTF-8"?>
<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="3000" height="1500" viewBox="0 0 3000 1500">
 <defs>
  <linearGradient id="dusk"><stop offset="0" stop-color="#0b5d4c"/><stop offset="1" stop-color="#20262b"/></linearGradient>
  <clipPath id="round"><circle cx="760" cy="120" r="60"/></clipPath>
 </defs>
 <text id="name" x="40" y="150" font-family="Tidewrack Script" font-size="90">Guillemot</text>
 <text id="motto" x="40" y="220" font-family="Barlow" font-size="30">\xe6\xbd\xae Safe home</text>
 <text id="blank" x="40" y="260" font-family="Barlow" font-size="30"></text>
 <image id="gull" x="640" y="300" width="200" height="140" xlink:href="gull.png"/>
 <use id="anchor" xlink:href="#no-such-anchor" x="40" y="300"/>
 <rect id="plate" x="700" y="60" width="120" height="120" fill="url(#dusk)" clip-path="url(#round)"/>
 <path id="ghost" d="M40 300h120v60h-120z" fill="#0b5d4c" display="none"/>
 <rect id="field" x="260" y="300" width="120" height="80" fill="#0b5d4c" stroke="#20262b" stroke-width="6"/>
</svg>
"""

SNAPSHOT = b"""<?xml version="1.0" encoding="UTF-8"?>
<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="210mm" height="148mm" viewBox="0 0 210 148">
 <image id="transom" x="15" y="14" width="180" height="120" xlink:href="transom.jpg"/>
</svg>
"""


def workbench_files() -> dict[str, tuple[bytes, str]]:
    """Each file with its ticket; "" for the one that came without."""
    return {
        "port-arc": (PORT_ARC, ticket_text("Port name", "film-knife", ("600 mm", "5 m"), width="300 mm")),
        "fascia": (write_svg(_fascia()), ticket_text("Fascia", "plasma", ("1500 mm", "3 m"), width="560 mm")),
        "tags": (write_svg(_tags()), ticket_text("Berth tags", "laser", ("200 mm", "150 mm"), width="250 mm")),
        "parcel": (PARCEL, ""),
        "porthole": (write_svg(_porthole()), ticket_text("Porthole cover", "plasma", ("1500 mm", "3 m"))),
        "snapshot": (SNAPSHOT, ""),
    }


def _letters(text: str, family: str, size_mm: float, x: float, y: float) -> list[Path]:
    lettering = Lettering("w", (Run(text, FaceQuery((family,)), size_mm, STEEL, at=(x, y)),))
    return [glyph.path() for glyph in set_lettering(lettering, Shelf(bundled_faces())).glyphs]


def _fascia() -> Sheet:
    """Lettering for steel: every sin against welding, and against the plasma's beam."""
    rings = [ring for letter in _letters("QUAY 80", "Alfa Slab One", 110, 30, 140) for ring in letter.subpaths()]
    word = Group("quay", tuple(Outline(f"quay-{i}", ring, STEEL) for i, ring in enumerate(rings, 1)), "QUAY 80")
    joint = [
        polygon((30, 180), (110, 180), (110, 230), (30, 230)),
        polygon((110.12, 185), (190, 185), (190, 225), (110.12, 225)),
    ]
    rail = Group("rail", tuple(Outline(f"rail-{i}", path, STEEL) for i, path in enumerate(joint, 1)), "Rail")
    eight = parse_path_data("M220 180H290V230H250V200H320V240H220Z").path
    spike = polygon((360, 180), (400, 180), (400, 197), (480, 204), (400, 208), (400, 230), (360, 230))
    thin = polygon((520, 180), (560, 180), (560, 181.5), (540, 181.5), (540, 230), (520, 230))
    nested = concat([circle(80, 290, 30, 0, True), circle(80, 290, 16, 0, True)])
    ringed = Outline("porthole", circle(180, 290, 25, 0, True), replace(STEEL, stroke=CUT, stroke_width_mm=4))
    items: tuple[Item, ...] = (
        word,
        rail,
        Outline("knot", eight, STEEL),
        Outline("pennant", spike, STEEL),
        Outline("bracket", thin, STEEL),
        Outline("washer", nested, replace(STEEL, even_odd=True)),
        ringed,
        Outline(
            "slot",
            concat(
                [
                    polygon((240, 270), (300, 270), (300, 310), (240, 310)),
                    polygon((260, 285), (280, 285), (280, 286), (260, 286)).reversed(),
                ]
            ),
            STEEL,
        ),
    )
    return Sheet((620.0, 340.0), items)


def _porthole() -> Sheet:
    """A berth number within a ring, and nothing between the two."""
    ring = concat([circle(150, 150, 130, 0, True), circle(150, 150, 112, 0, True).reversed()])
    number = concat([path for path in _letters("7", "Alfa Slab One", 150, 104, 203) if len(path)])
    return Sheet((300.0, 300.0), (Outline("ring", ring, STEEL, "Ring"), Outline("number", number, STEEL, "7")))


def _tags() -> Sheet:
    """Tags on plywood, cut from edge to edge."""
    items: list[Item] = []
    for index in range(3):
        x = 12 + 60 * index
        items.append(Outline(f"tag-{index + 1}", polygon((x, 12), (x + 60, 12), (x + 60, 48), (x, 48)), LINE))
    items += [
        Outline("tag-2-again", polygon((72, 12.002), (132, 12), (132, 48), (72, 48)).reversed(), LINE),
        Outline("thick", polygon((12, 60), (72, 60), (72, 96), (12, 96)), replace(LINE, stroke_width_mm=1.5)),
        Outline("nearly", polygon((82, 60), (142, 60), (142, 96), (82, 96)), replace(LINE, stroke="#0b5e4d")),
        Outline("odd", polygon((152, 60), (192, 60), (192, 96), (152, 96)), replace(LINE, stroke="#c03a8f")),
        Outline("both", polygon((202, 12), (242, 12), (242, 48), (202, 48)), replace(LINE, fill=ENGRAVE)),
        Outline("open", polygon((202, 60), (242, 60), (242, 96), (202, 96), (202, 60.15), closed=False), LINE),
        Outline("half-1", polygon((12, 108), (52, 108), (52, 140), closed=False), LINE),
        Outline("half-2", polygon((12.05, 108.05), (12, 140), (52.08, 140), closed=False), LINE),
        Outline("speck", polygon((150, 120), (150.01, 120.01), closed=False), LINE),
        Outline("crowded", _crowded(), LINE),
        Outline("over-the-edge", polygon((245, 110), (275, 110), (275, 130), (245, 130)), LINE),
        Outline("dense", _dense(), LINE),
    ]
    return Sheet((260.0, 150.0), tuple(items))


def _crowded() -> Path:
    return polygon((70, 108), (70.004, 108.003), (110, 108), (110, 140), (109.996, 140.002), (70, 140))


def _dense() -> Path:
    """A circle as a converter without mercy draws it."""
    angles = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    return polygon(*[(135 + 12 * float(np.cos(a)), 124 + 12 * float(np.sin(a))) for a in angles])
