"""DXF drawings at random: blocks in blocks, scaled and turned over, bulges, planes of their own, inherited colours.

`python -m tests.formats.random_dxf COUNT [FIRST]` reads any number of them, and says in which colours the drawing
add-on of ezdxf, which takes blocks apart and draws curves by itself, has lines that we haven't, and what our own proof
says of pictures of them.
"""

from __future__ import annotations

import random
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import ezdxf
import numpy as np
import shapely
from ezdxf.addons.drawing import Frontend, RenderContext
from ezdxf.addons.drawing.config import Configuration, LinePolicy
from ezdxf.addons.drawing.recorder import FilledPathsRecord, PathRecord, PointsRecord, Recorder, SolidLinesRecord

from tests.builders import workshop
from tests.formats.random_svg import tell
from unkelt.app.work import opened
from unkelt.formats.dxf.read import MARGIN_MM, read_dxf
from unkelt.geometry.flatten import lines
from unkelt.verdict.painted import pictures_of

LAYERS = {"0": 3, "Cut": 1, "b 2": 5}
CHORD, NEAR, LEAST = 0.002, 0.05, 0.2


class Made:
    """One drawing."""

    def __init__(self, seed: int) -> None:
        self.rnd = random.Random(seed)
        self.wide = False

    def saved(self, path: Path, *, marked: bool = True) -> None:
        """Written; `marked` has two lines far away, by which it is laid on another reading of it."""
        rnd, self.wide = self.rnd, not marked  # their lines of a width are areas
        release = rnd.choice(["R12", "R2000", "R2010", "R2018"])
        document = ezdxf.new(release)
        if release != "R12":
            document.header["$INSUNITS"] = 4
        for name, colour in LAYERS.items():
            layer = document.layers.get(name) if document.layers.has_entry(name) else document.layers.add(name)
            layer.color = colour
        space = document.modelspace()
        for x, y in ((-500, -500), (500, 500)) if marked else ():
            space.add_line((x, y), (x / 2, y))
        names: list[str] = []
        for number in range(rnd.randint(0, 3)):
            block = document.blocks.new(f"B{number}", base_point=(self.place(5)))
            for _ in range(rnd.randint(1, 3)):
                self.shape(block, release)
            if names and rnd.random() < 0.6:
                block.add_blockref(rnd.choice(names), self.place(), self.reference(nested=True))
            names.append(f"B{number}")
        for _ in range(rnd.randint(1, 4)):
            self.shape(space, release)
        for _ in range(rnd.randint(0, 3) if names else 0):
            reference = space.add_blockref(rnd.choice(names), self.place(), self.reference())
            if rnd.random() < 0.2:
                reference.grid((rnd.randint(1, 2), rnd.randint(1, 3)), (rnd.uniform(5, 30), rnd.uniform(5, 30)))
        document.saveas(path)

    def number(self, least: float = -40, most: float = 40) -> float:
        return round(self.rnd.uniform(least, most), 3)

    def place(self, reach: float = 40) -> tuple[float, float]:
        return self.number(-reach, reach), self.number(-reach, reach)

    def look(self) -> dict[str, Any]:
        rnd = self.rnd
        look: dict[str, Any] = {"layer": rnd.choice(list(LAYERS))}
        if rnd.random() < 0.4:
            look["color"] = rnd.choice([0, 0, 1, 2, 4, 6, 8, rnd.randint(10, 249)])
        if rnd.random() < 0.2:
            look["extrusion"] = rnd.choice([(0, 0, -1), (0, 0, -1), (0, 0, 1), (0, 1, 0), (0.3, 0.2, 0.9)])
        return look

    def reference(self, *, nested: bool = False) -> dict[str, Any]:
        """A block that is turned in one that is scaled unevenly may be sheared, which the add-on's references can't be: there
        GDAL agrees with us.
        """
        rnd, look = self.rnd, self.look()
        if look.get("extrusion", (0, 0, 1))[2] > -1:
            look.pop("extrusion", None)
        look["rotation"] = 0 if nested else rnd.choice([0, 90, self.number(-180, 180)])
        kind, even = rnd.random(), self.number(0.3, 2)
        if kind < 0.3:
            look |= {"xscale": even, "yscale": even, "zscale": even}
        elif kind < 0.5:
            look["xscale"] = -1.0
        elif kind < 0.7 and not nested:
            look |= {"xscale": even, "yscale": rnd.choice([1, -1]) * self.number(0.4, 2)}
        return look

    def shape(self, space: Any, release: str) -> None:
        rnd, look = self.rnd, self.look()
        bulged = [
            (*self.place(), 0, 0, rnd.choice([0, 0, 1, -1, self.number(-2, 2)])) for _ in range(rnd.randint(2, 6))
        ]
        closed, corners = rnd.random() < 0.5, [self.place() for _ in range(rnd.choice([3, 4]))]
        old = ["LINE", "CIRCLE", "ARC", "POLYLINE", "SOLID"]
        match rnd.choice(old if release == "R12" else [*old, "LWPOLYLINE", "LWPOLYLINE", "ELLIPSE", "HATCH", "SPLINE"]):
            case "LINE":
                space.add_line(self.place(), self.place(), look)
            case "CIRCLE":
                space.add_circle(self.place(), self.number(1, 20), look)
            case "ARC":
                space.add_arc(
                    self.place(), self.number(1, 20), self.number(-720, 720), self.number(-400, 800), dxfattribs=look
                )
            case "POLYLINE":
                space.add_polyline2d(bulged, format="xyseb", close=closed, dxfattribs=look)
            case "LWPOLYLINE":
                wide = (
                    {"const_width": self.number(0.5, 3)}
                    if self.wide and rnd.random() < 0.3 and not space.is_block_layout
                    else {}
                )
                space.add_lwpolyline(bulged, close=closed, dxfattribs=look | wide)
            case "SOLID":
                space.add_solid(corners, look)
            case "SPLINE":
                look.pop("extrusion", None)
                degree = rnd.choice([2, 3, 3])
                space.add_open_spline([(*self.place(), 0) for _ in range(rnd.randint(4, 7))], degree, None, look)
            case "HATCH":
                look.pop("extrusion", None)
                hatch = space.add_hatch(dxfattribs={"color": 256, "hatch_style": rnd.choice([0, 1, 2])} | look)
                hatch.paths.add_polyline_path([(*at, rnd.choice([0, 0, 0.3, -1])) for at in corners])
                if rnd.random() < 0.4:
                    self.edges(hatch.paths.add_edge_path(flags=rnd.choice([1, 16, 0])))
            case "ELLIPSE":
                look.pop("extrusion", None)
                ends = (self.number(0, 6), self.number(0, 12)) if rnd.random() < 0.5 else (0, 2 * np.pi)
                space.add_ellipse(self.place(), self.place(20), rnd.uniform(0.1, 1), *ends, dxfattribs=look)

    def edges(self, boundary: Any) -> None:
        """A ring of an arc, a line, an arc of an ellipse and a spline, or a whole circle or ellipse."""
        rnd, (x, y), r = self.rnd, self.place(20), self.number(2, 15)
        match rnd.randint(0, 2):
            case 0:
                boundary.add_arc((x, y), r, 0, 360, ccw=rnd.random() < 0.5)
            case 1:
                boundary.add_ellipse((x, y), (r, r / 3), 0.4, 0, 360, ccw=rnd.random() < 0.5)
            case 2:
                boundary.add_arc((x, y), r, 0, 90)
                boundary.add_line((x, y + r), (x - r, y + r))
                boundary.add_ellipse((x - r, y), (0, r), 0.5, 0, 180)
                places = [(x - r, y - r), (x, y - 2 * r), (x + r, y - r), (x + r, y)]
                boundary.add_spline(control_points=places, degree=3, knot_values=[0] * 4 + [1] * 4)


def _theirs(path: Path) -> dict[str, shapely.Geometry]:
    """Lines by colour as the add-on has them."""
    document, recorder = ezdxf.readfile(path), Recorder()
    fine = Configuration(line_policy=LinePolicy.SOLID, max_flattening_distance=CHORD, circle_approximation_count=1024)
    Frontend(RenderContext(document), recorder, config=fine).draw_layout(document.modelspace())
    found: dict[str, list[shapely.Geometry]] = {}
    for record, properties in recorder.player().recordings():
        match record:
            case PointsRecord():
                corners = [(point.x, point.y) for point in record.points.vertices()]
                runs = [[*corners, corners[0]]] if len(corners) > 2 else [corners]
            case SolidLinesRecord():
                ends = [(point.x, point.y) for point in record.lines.vertices()]
                runs = [list(pair) for pair in zip(ends[::2], ends[1::2], strict=True)]
            case PathRecord():
                runs = [[(point.x, point.y) for point in record.path.to_path().flattening(CHORD)]]
            case FilledPathsRecord():
                runs = [[(point.x, point.y) for point in each.to_path().flattening(CHORD)] for each in record.paths]
                runs = [[*run, run[0]] for run in runs]
        colour = "#000000" if properties.color[:7] == "#ffffff" else properties.color[:7]  # "white" is black on paper
        found.setdefault(colour, []).extend(shapely.LineString(run) for run in runs if len(run) > 1)
    return {colour: shapely.union_all(parts) for colour, parts in found.items()}


def _ours(path: Path) -> dict[str, shapely.Geometry]:
    """Lines by colour as they are read, moved back to where the drawing has them."""
    sheet = read_dxf(path)
    drawn = [(each.look.stroke or each.look.fill or "", lines(each.path, CHORD)) for each in sheet.outlines()]
    x, y = -500 - MARGIN_MM, 500 + MARGIN_MM
    found: dict[str, list[shapely.Geometry]] = {}
    for colour, line in drawn:
        found.setdefault(colour, []).append(shapely.transform(line, lambda at: at * [1, -1] + [x, y]))
    return {colour: shapely.union_all(parts) for colour, parts in found.items()}


def differences(seed: int) -> tuple[str, ...]:
    """What lies in a colour with one and not with the other, in words."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "made.dxf"
        Made(seed).saved(path)
        ours, theirs = _ours(path), _theirs(path)
    nothing, said = shapely.MultiLineString(), []
    for colour in sorted({*ours, *theirs}):
        a, b = ours.get(colour, nothing), theirs.get(colour, nothing)
        for who, one, other in (("ours", a, b), ("theirs", b, a)):
            only = one.difference(other.buffer(NEAR)).length
            if only > LEAST:
                said.append(f"{only:.1f} mm of {colour} are {who} alone")
    return tuple(said)


def held(seed: int) -> tuple[str, ...]:
    """What the proof says of the pictures: of the file by its own reader, and of the sheet."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "made.dxf"
        Made(seed).saved(path, marked=False)
        found = pictures_of(opened(path, workshop()))
    return (*([found.skipped] if found.skipped else []), *(each.words() for each in found.lost))


if __name__ == "__main__":
    tell(lambda seed: (*differences(seed), *held(seed)))
