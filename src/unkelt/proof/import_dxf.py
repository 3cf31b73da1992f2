"""DXF as importing software reads it: group codes and entities, read here by hand and not by the library that wrote
them.

Understood are the entities that importing software reads: LINE, LWPOLYLINE and POLYLINE with bulges, ARC, CIRCLE,
ELLIPSE, SPLINE, and INSERT of blocks made of them. Codes as in the DXF reference ("DXF group codes", "ENTITIES
section"; from memory).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path as FilePath

import numpy as np
import scipy
from fontTools.misc.transform import Transform

from unkelt.errors import InputError
from unkelt.geometry.nesting import ring_nesting
from unkelt.geometry.path import EMPTY, Path, PathBuilder, concat
from unkelt.messages import say
from unkelt.proof.imported import Body, Held, Imported

MM = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 8: 25.4e-6, 9: 0.0254, 10: 914.4, 13: 1e-3, 14: 100.0}
"""$INSUNITS in mm."""

ABSURD = 1e9
DEEPEST = 20
MOST = 200_000
"""Blocks nested deeper, or inserted more often, are no drawing."""

QUARTER = math.pi / 4
"""Arcs are drawn as cubics of no more than this angle: at a radius of 1 m they stray by less than 5 µm."""

CLOSED_MM = 1e-6
INDEXED = {
    1: "#ff0000",
    2: "#ffff00",
    3: "#00ff00",
    4: "#00ffff",
    5: "#0000ff",
    6: "#ff00ff",
    7: "#000000",
    0: "#000000",
}
"""The colours that have names in the index; "white" is black on paper. All others count as black."""

Pair = tuple[int, str]


@dataclass(slots=True)
class _Entity:
    """One entity: its kind, and its group codes with their values in the file's order; the vertices of an old polyline,
    too.
    """

    kind: str
    pairs: list[Pair]
    vertices: list[_Entity] = field(default_factory=list)

    def text(self, code: int, otherwise: str = "") -> str:
        return next((value for at, value in self.pairs if at == code), otherwise)

    def number(self, code: int, otherwise: float = 0.0) -> float:
        said = self.text(code)
        return float(said) if said else otherwise

    def numbers(self, code: int) -> list[float]:
        return [float(value) for at, value in self.pairs if at == code]


@dataclass(slots=True)
class _Document:
    """What a file says, taken apart."""

    header: dict[str, list[Pair]] = field(default_factory=dict)
    layers: dict[str, _Entity] = field(default_factory=dict)
    blocks: dict[str, list[_Entity]] = field(default_factory=dict)
    bases: dict[str, tuple[float, float]] = field(default_factory=dict)
    entities: list[_Entity] = field(default_factory=list)
    group_of: dict[str, int] = field(default_factory=dict)
    """The group that an entity is of, by its handle."""


def import_dxf(path: FilePath) -> Imported:
    """One body an entity, or a group of closed ones; coloured by its true colour; y down. Raises InputError in one
    sentence.
    """
    try:
        data = path.read_bytes()
    except OSError as problem:
        raise InputError(str(path), say("can't be read: {strerror}", strerror=problem.strerror)) from problem
    if data.startswith(b"AutoCAD Binary DXF"):
        raise InputError(str(path), "is binary DXF, which the independent reader doesn't read; save it as text")
    try:
        return _Reader(_taken_apart(data), str(path)).imported()
    except (ValueError, IndexError, StopIteration, RecursionError, ArithmeticError) as problem:
        raise InputError(
            str(path), say("the independent reader can't read it: {value}", value=problem or type(problem).__name__)
        ) from problem


# taking apart


def _taken_apart(data: bytes) -> _Document:
    try:
        lines = data.decode("utf-8").splitlines()
    except UnicodeDecodeError:
        lines = data.decode("latin-1").splitlines()
    pairs = [(int(code), value.strip()) for code, value in zip(lines[::2], lines[1::2], strict=False)]
    document, section = _Document(), ""
    block: str | None = None
    for entity in _entities(pairs):
        if entity.kind == "SECTION":
            section = entity.text(2)
            if section == "HEADER":
                document.header = _header(entity.pairs)
        elif section == "TABLES" and entity.kind == "LAYER":
            document.layers[entity.text(2)] = entity
        elif section == "BLOCKS":
            if entity.kind == "BLOCK":
                block = entity.text(2)
                document.blocks[block] = []
                document.bases[block] = entity.number(10), entity.number(20)
            elif block is not None and entity.kind != "ENDBLK":
                document.blocks[block].append(entity)
        elif section == "ENTITIES" and entity.kind != "ENDSEC":
            document.entities.append(entity)
        elif section == "OBJECTS" and entity.kind == "GROUP":
            number = len(document.group_of) + 1
            document.group_of |= {value: number for code, value in entity.pairs if code == 340}
    document.entities = _with_vertices(document.entities)
    document.blocks = {name: _with_vertices(held) for name, held in document.blocks.items()}
    return document


def _entities(pairs: Sequence[Pair]) -> Iterator[_Entity]:
    """Everything that begins with a group code 0."""
    entity: _Entity | None = None
    for code, value in pairs:
        if code == 0:
            if entity is not None:
                yield entity
            entity = _Entity(value, [])
        elif entity is not None:
            entity.pairs.append((code, value))
    if entity is not None:
        yield entity


def _header(pairs: Sequence[Pair]) -> dict[str, list[Pair]]:
    found: dict[str, list[Pair]] = {}
    name = ""
    for code, value in pairs:
        if code == 9:
            name = value
        else:
            found.setdefault(name, []).append((code, value))
    return found


def _with_vertices(entities: Sequence[_Entity]) -> list[_Entity]:
    """Old polylines are followed by their vertices, up to a SEQEND."""
    result: list[_Entity] = []
    for entity in entities:
        if entity.kind == "VERTEX" and result and result[-1].kind == "POLYLINE":
            result[-1].vertices.append(entity)
        elif entity.kind != "SEQEND":
            result.append(entity)
    return result


# drawing


@dataclass(frozen=True)
class _Around:
    """What the reference of a block hands down."""

    layer: str = "0"
    colour: str = "#000000"
    hidden: bool = False


class _Reader:
    """One pass over what is drawn."""

    def __init__(self, document: _Document, name: str) -> None:
        self.document, self.name, self.count = document, name, 0
        units = int(float((document.header.get("$INSUNITS") or [(70, "0")])[0][1]))
        self.sure, self.unit_mm = units in MM, MM.get(units, 1.0)
        corner = dict(document.header.get("$EXTMAX", []))
        right, upper = float(corner.get(10, "inf")), float(corner.get(20, "inf"))
        sane = max(abs(right), abs(upper)) < ABSURD
        self.page = (right * self.unit_mm, upper * self.unit_mm) if sane else (0.0, 0.0)
        self.matrix = Transform(self.unit_mm, 0, 0, -self.unit_mm, 0, self.page[1])
        self.texts = self.pictures = 0
        self.found: list[tuple[Body, int]] = []

    def imported(self) -> Imported:
        for entity in self.document.entities:
            self._take(entity, self.matrix, _Around(), 0)
        bodies = tuple(self._bound())
        return Imported(self.page, bodies, self.texts, self.pictures, "DXF", self.sure, self.unit_mm)

    def _take(self, entity: _Entity, matrix: Transform, around: _Around, depth: int) -> None:
        self.count += 1
        if depth > DEEPEST or self.count > MOST:
            raise InputError(self.name, "inserts its blocks without end")
        name = entity.text(8, "0")
        name = around.layer if name == "0" else name
        if entity.kind in ("TEXT", "MTEXT", "ATTRIB"):
            self.texts += 1
        elif entity.kind == "IMAGE":
            self.pictures += 1
        elif entity.kind == "INSERT":
            self._insert(entity, matrix, around, name, depth)
        elif entity.kind in _DRAWN:
            path = _DRAWN[entity.kind](entity).transformed(_upright(entity, matrix))
            if len(path):
                group = self.document.group_of.get(entity.text(5), 0) if not depth else 0
                self.found.append((self._body(entity, path, around, name), group))

    def _insert(self, entity: _Entity, matrix: Transform, around: _Around, name: str, depth: int) -> None:
        """What is on layer 0, or coloured by block, takes that over from the reference (DXF reference, BLOCK)."""
        layer, block = self.document.layers.get(name), entity.text(2)
        hidden = around.hidden or entity.text(60) == "1" or (layer is not None and bool(int(layer.number(70)) & 1))
        inside = _Around(name, _colour(entity, layer, around.colour), hidden)
        turn = math.radians(entity.number(50))
        placed = _upright(entity, matrix).translate(entity.number(10), entity.number(20)).rotate(turn)
        x, y = self.document.bases.get(block, (0.0, 0.0))
        for column in range(max(1, int(entity.number(70, 1)))):
            for row in range(max(1, int(entity.number(71, 1)))):
                own = placed.translate(column * entity.number(44), row * entity.number(45))
                own = own.scale(entity.number(41, 1.0), entity.number(42, 1.0)).translate(-x, -y)
                for inner in self.document.blocks.get(block, []):
                    self._take(inner, own, inside, depth + 1)

    def _body(self, entity: _Entity, path: Path, around: _Around, name: str) -> Body:
        layer = self.document.layers.get(name)
        off = layer is not None and (layer.number(62, 7) < 0 or int(layer.number(70)) & 1)
        shown = not off and not around.hidden and entity.text(60) != "1"
        groups = (Held(name, is_layer=True),)
        return Body(path, None, _colour(entity, layer, around.colour), True, shown=shown, groups=groups)

    def _bound(self) -> Iterator[Body]:
        """The bodies; closed lines of one group, alike and apart from each other, are one."""
        members: dict[tuple[int, str | None, tuple[Held, ...]], list[Body]] = {}
        for body, group in self.found:
            members.setdefault((group, body.stroke, body.groups) if group else (-len(members), None, ()), []).append(
                body
            )
        for bodies in members.values():
            whole = concat([body.path for body in bodies])
            if len(bodies) > 1 and whole.closed.all() and ring_nesting(whole, CHORD_MM).nesting is not None:
                first = bodies[0]
                yield Body(whole, None, first.stroke, True, shown=first.shown, groups=first.groups)
            else:
                yield from bodies


CHORD_MM = 0.01
"""Chord error within which rings are told apart."""


def _upright(entity: _Entity, matrix: Transform) -> Transform:
    """Flat entities that are turned over are mirrored in x (DXF reference, "Arbitrary axis algorithm")."""
    return matrix.scale(-1, 1) if entity.number(230, 1.0) < 0 and entity.kind != "SPLINE" else matrix


def _colour(entity: _Entity, layer: _Entity | None, of_block: str) -> str:
    for said in (entity, layer):
        if said is None:
            continue
        if said.text(420):
            return f"#{int(said.text(420)) & 0xFFFFFF:06x}"
        index = abs(int(said.number(62, 256 if said is entity else 7)))
        if index == 0 and said is entity:
            return of_block
        if index not in (0, 256):
            return INDEXED.get(index, "#000000")
    return "#000000"


def _line(entity: _Entity) -> Path:
    builder = PathBuilder()
    builder.move_to(entity.number(10), entity.number(20))
    builder.line_to(entity.number(11), entity.number(21))
    return builder.path()


def _circle(entity: _Entity) -> Path:
    return _arc_path((entity.number(10), entity.number(20)), entity.number(40), 0.0, math.tau, closed=True)


def _arc(entity: _Entity) -> Path:
    start, end = math.radians(entity.number(50)), math.radians(entity.number(51))
    return _arc_path(
        (entity.number(10), entity.number(20)), entity.number(40), start, (end - start) % math.tau or math.tau
    )


def _arc_path(centre: tuple[float, float], radius: float, start: float, sweep: float, *, closed: bool = False) -> Path:
    builder = PathBuilder()
    builder.move_to(centre[0] + radius * math.cos(start), centre[1] + radius * math.sin(start))
    _add_arc(builder, centre, radius, start, sweep)
    if closed:
        builder.close()
    return builder.path()


def _add_arc(builder: PathBuilder, centre: tuple[float, float], radius: float, start: float, sweep: float) -> None:
    """Cubics around a centre; their handles are 4/3 tan(angle/4) of the radius long."""
    steps = max(1, math.ceil(abs(sweep) / QUARTER - 1e-9))
    k = radius * 4 / 3 * math.tan(sweep / steps / 4)
    for step in range(steps):
        a, b = start + sweep * step / steps, start + sweep * (step + 1) / steps
        (x0, y0), (x1, y1) = ((centre[0] + radius * math.cos(t), centre[1] + radius * math.sin(t)) for t in (a, b))
        builder.cubic_to(x0 - k * math.sin(a), y0 + k * math.cos(a), x1 + k * math.sin(b), y1 - k * math.cos(b), x1, y1)


def _ellipse(entity: _Entity) -> Path:
    mx, my, ratio = entity.number(11), entity.number(21), entity.number(40, 1.0)
    start, end = entity.number(41), entity.number(42, math.tau)
    sweep = (end - start) % math.tau or math.tau
    unit = _arc_path((0.0, 0.0), 1.0, start, sweep, closed=abs(sweep - math.tau) < 1e-9)
    return unit.transformed(Transform(mx, my, -my * ratio, mx * ratio, entity.number(10), entity.number(20)))


def _lwpolyline(entity: _Entity) -> Path:
    places: list[list[float]] = []
    for code, value in entity.pairs:
        if code == 10:
            places.append([float(value), 0.0, 0.0])
        elif code == 20 and places:
            places[-1][1] = float(value)
        elif code == 42 and places:
            places[-1][2] = float(value)
    return _with_bulges(places, closed=bool(int(entity.number(70)) & 1))


def _polyline(entity: _Entity) -> Path:
    places = [[vertex.number(10), vertex.number(20), vertex.number(42)] for vertex in entity.vertices]
    return _with_bulges(places, closed=bool(int(entity.number(70)) & 1))


def _with_bulges(places: Sequence[Sequence[float]], *, closed: bool) -> Path:
    """Straight pieces, and arcs where a bulge says so: the tangent of a quarter of the arc's angle."""
    if len(places) < 2:
        return EMPTY
    builder = PathBuilder()
    builder.move_to(places[0][0], places[0][1])
    following = [*places[1:], places[0]] if closed else places[1:]
    for (x0, y0, bulge), (x1, y1, _) in zip(places, following, strict=False):
        if not bulge:
            builder.line_to(x1, y1)
            continue
        sweep = 4 * math.atan(bulge)
        half = math.hypot(x1 - x0, y1 - y0) / 2
        radius = half / abs(math.sin(sweep / 2))
        rise = half / math.tan(sweep / 2)
        ux, uy = (x1 - x0) / (2 * half), (y1 - y0) / (2 * half)
        centre = (x0 + x1) / 2 - uy * rise, (y0 + y1) / 2 + ux * rise
        _add_arc(builder, centre, radius, math.atan2(y0 - centre[1], x0 - centre[0]), sweep)
    if closed:
        builder.close()
    return builder.path()


def _spline(entity: _Entity) -> Path:
    degree, knots = int(entity.number(71, 3)), np.array(entity.numbers(40))
    controls = np.stack([entity.numbers(10), entity.numbers(20)], axis=1)
    closed = bool(int(entity.number(70)) & 1) or bool(np.abs(controls[0] - controls[-1]).max() <= CLOSED_MM)
    weights = entity.numbers(41)
    if degree > 3 or len(knots) != len(controls) + degree + 1 or (weights and np.ptp(weights) > 1e-9):
        return _followed(knots, controls, np.array(weights or np.ones(len(controls))), degree, closed=closed)
    builder = PathBuilder()
    pieces = _bezier_pieces(knots, controls, degree)
    builder.move_to(*pieces[0][0])
    for piece in pieces:
        numbers = piece[1:].ravel().tolist()
        if degree == 1:
            builder.line_to(*numbers)
        elif degree == 2:
            builder.quad_to(*numbers)
        else:
            builder.cubic_to(*numbers)
    if closed:
        builder.close()
    return builder.path()


def _bezier_pieces(knots: np.ndarray, controls: np.ndarray, degree: int) -> list[np.ndarray]:
    """The spline as Bézier curves: its own control points where every knot is as often there as the degree, else by its
    polynomials in the Bernstein basis.
    """
    inner, often = np.unique(knots, return_counts=True)
    count = len(inner) - 1
    if often[0] == often[-1] == degree + 1 and (often[1:-1] == degree).all() and len(controls) == degree * count + 1:
        return [controls[degree * k : degree * (k + 1) + 1] for k in range(count)]
    poly = scipy.interpolate.PPoly.from_spline((knots, controls, degree))
    pieces = []
    for low, high, coefficients in zip(poly.x[:-1], poly.x[1:], np.moveaxis(poly.c, 1, 0), strict=True):
        if high - low <= 0 or low < knots[degree] - 1e-12 or high > knots[-degree - 1] + 1e-12:
            continue
        powers = [coefficients[degree - n] * (high - low) ** n for n in range(degree + 1)]
        pieces.append(
            np.array(
                [
                    sum(math.comb(i, n) / math.comb(degree, n) * powers[n] for n in range(i + 1))
                    for i in range(degree + 1)
                ]
            )
        )
    return pieces


def _followed(knots: np.ndarray, controls: np.ndarray, weights: np.ndarray, degree: int, *, closed: bool) -> Path:
    """A spline of another kind, as short lines."""
    above = scipy.interpolate.BSpline(
        knots, np.concatenate([controls * weights[:, None], weights[:, None]], axis=1), degree
    )
    t = np.linspace(knots[degree], knots[-degree - 1], 64 * len(controls))
    places = above(t)[:, :2] / above(t)[:, 2:]
    builder = PathBuilder()
    builder.move_to(*places[0])
    for x, y in places[1:].tolist():
        builder.line_to(x, y)
    if closed:
        builder.close()
    return builder.path()


_DRAWN: dict[str, Callable[[_Entity], Path]] = {
    "LINE": _line,
    "CIRCLE": _circle,
    "ARC": _arc,
    "ELLIPSE": _ellipse,
    "LWPOLYLINE": _lwpolyline,
    "POLYLINE": _polyline,
    "SPLINE": _spline,
}
