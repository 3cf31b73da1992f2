"""DXF as importing software reads it, and as it is seen: group codes and entities, read here by hand and not by the
library that wrote them.

Drawn are the entities of `dxf_shapes`, INSERT of blocks made of them, and dimensions by the blocks that draw them. What
else can be seen, and blocks that lie aslant, are counted as not read.
"""

from __future__ import annotations

import colorsys
import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path as FilePath

import numpy as np
from fontTools.misc.transform import Transform

from unkelt.errors import InputError
from unkelt.geometry.nesting import ring_nesting
from unkelt.geometry.path import Path, concat
from unkelt.messages import say
from unkelt.proof.dxf_shapes import FILLED, SHAPES, width_of
from unkelt.proof.dxf_tags import Document, Entity, taken_apart
from unkelt.proof.imported import Body, Held, Imported
from unkelt.sheet.appearance import DEFAULT_STROKE_MM, Appearance

MM = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 8: 25.4e-6, 9: 0.0254, 10: 914.4}
MM |= {13: 1e-3, 14: 100.0, 15: 1e4, 16: 1e5}
"""$INSUNITS in mm."""

ABSURD = 1e9
DEEPEST = 20
MOST = 200_000
"""Blocks nested deeper, or inserted more often, are no drawing."""

DIMENSIONS = ("DIMENSION", "ARC_DIMENSION", "LARGE_RADIAL_DIMENSION")
"""Drawn by a block of their own."""

SEEN_ELSEWHERE = frozenset(["LEADER", "MULTILEADER", "MLEADER", "MLINE", "ACAD_TABLE", "ACAD_PROXY_ENTITY"])
"""What others draw, and this reader can't."""

SPATIAL = frozenset(["LINE", "POINT", "SPLINE", "HELIX", "3DFACE", "ELLIPSE"])
"""Entities whose coordinates are those of the drawing; those of all others are of a plane of their own."""

SPATIAL_POLYLINE = 8
"""The bit of a polyline that is one of them, too."""

TILTED = 1e-9
IDENTITY = Transform()


def import_dxf(path: FilePath) -> Imported:
    """One body an entity, or a group of closed ones; coloured by its true colour; y down. Raises InputError in one
    sentence.
    """
    try:
        data = path.read_bytes()
    except OSError as problem:
        raise InputError(str(path), say("can't be read: {strerror}", strerror=problem.strerror)) from problem
    if data.startswith(b"AutoCAD Binary DXF"):
        raise InputError(str(path), "the independent reader doesn't read binary DXF; save it as text")
    try:
        return _Reader(taken_apart(data), str(path)).imported()
    except (ValueError, LookupError, StopIteration, RecursionError, ArithmeticError) as problem:
        raise InputError(
            str(path), say("the independent reader can't read it: {value}", value=problem or type(problem).__name__)
        ) from problem


@dataclass(frozen=True)
class _Around:
    """What the reference of a block hands down."""

    layer: str = "0"
    colour: str = "#000000"
    hidden: bool = False
    opacity: float = 1.0


class _Reader:
    """One pass over what is drawn."""

    def __init__(self, document: Document, name: str) -> None:
        self.document, self.name, self.count = document, name, 0
        units = int(float((document.header.get("$INSUNITS") or [(70, "0")])[0][1]))
        self.sure, self.unit_mm = units in MM, MM.get(units, 1.0)
        corner = dict(document.header.get("$EXTMAX", []))
        right, upper = float(corner.get(10, "inf")), float(corner.get(20, "inf"))
        sane = max(abs(right), abs(upper)) < ABSURD
        self.page = (right * self.unit_mm, upper * self.unit_mm) if sane else (0.0, 0.0)
        self.matrix = Transform(self.unit_mm, 0, 0, -self.unit_mm, 0, self.page[1])
        self.texts = self.pictures = 0
        self.unread: Counter[str] = Counter()
        self.found: list[tuple[Body, int]] = []

    def imported(self) -> Imported:
        for entity in self.document.entities:
            self._take(entity, self.matrix, _Around(), 0)
        bodies, unread = tuple(self._bound()), tuple(sorted(self.unread))
        return Imported(self.page, bodies, self.texts, self.pictures, "DXF", self.sure, self.unit_mm, unread)

    def _counted(self, depth: int) -> None:
        self.count += 1
        if depth > DEEPEST or self.count > MOST:
            raise InputError(self.name, "its blocks are inserted without end")

    def _take(self, entity: Entity, matrix: Transform, around: _Around, depth: int) -> None:
        self._counted(depth)
        name = entity.text(8, "0")
        name = around.layer if name == "0" else name
        if entity.kind in ("TEXT", "MTEXT", "ATTRIB"):
            self.texts += 1
        elif entity.kind == "IMAGE":
            self.pictures += 1
        elif entity.kind in SEEN_ELSEWHERE or _cannot_be_drawn(entity):
            self.unread[entity.kind] += 1
        elif entity.kind == "INSERT":
            self._insert(entity, matrix, around, name, depth)
        elif entity.kind in DIMENSIONS:  # its block is drawn where it is, or moved by where a copy of it lies
            self._block(entity, matrix.translate(entity.number(12), entity.number(22)), around, name, depth)
        elif entity.kind in SHAPES:
            placed = matrix.transform(_plane(entity))
            path = SHAPES[entity.kind](entity).transformed(placed)
            if len(path):
                group = self.document.group_of.get(entity.text(5), 0) if not depth else 0
                self.found.append((self._body(entity, path, placed, around, name), group))

    def _insert(self, entity: Entity, matrix: Transform, around: _Around, name: str, depth: int) -> None:
        turn = math.radians(entity.number(50))
        placed = matrix.transform(_plane(entity)).translate(entity.number(10), entity.number(20)).rotate(turn)
        x, y = self.document.bases.get(entity.text(2).lower(), (0.0, 0.0))
        for row in range(max(1, int(entity.number(71, 1)))):
            for column in range(max(1, int(entity.number(70, 1)))):
                self._counted(depth)
                own = placed.translate(column * entity.number(44), row * entity.number(45))
                own = own.scale(entity.number(41, 1.0), entity.number(42, 1.0)).translate(-x, -y)
                self._block(entity, own, around, name, depth)

    def _block(self, entity: Entity, matrix: Transform, around: _Around, name: str, depth: int) -> None:
        """What is on layer 0, or coloured by block, takes that over from the reference (DXF reference, BLOCK)."""
        layer = self.document.layers.get(name.lower())
        hidden = around.hidden or entity.text(60) == "1" or (layer is not None and bool(int(layer.number(70)) & 1))
        opacity = _opacity(entity, layer, around.opacity)
        inside = _Around(name, _colour(entity, layer, around.colour), hidden, opacity)
        for inner in self.document.blocks.get(entity.text(2).lower(), []):
            self._take(inner, matrix, inside, depth + 1)

    def _body(self, entity: Entity, path: Path, placed: Transform, around: _Around, name: str) -> Body:
        layer = self.document.layers.get(name.lower())
        off = layer is not None and (layer.number(62, 7) < 0 or int(layer.number(70)) & 1)
        shown = not off and not around.hidden and entity.text(60) != "1"
        colour, filled = _colour(entity, layer, around.colour), entity.kind in FILLED
        width, opacity = width_of(entity), _opacity(entity, layer, around.opacity)
        if width and not _is_even(placed):
            self.unread[entity.kind] += 1
        return Body(
            path,
            colour if filled else None,
            None if filled else colour,
            True,
            width * math.sqrt(abs(placed.xx * placed.yy - placed.xy * placed.yx)) or DEFAULT_STROKE_MM,
            opacity,
            opacity,
            shown=shown,
            groups=(Held(name, is_layer=True),),
        )

    def _bound(self) -> Iterator[Body]:
        """The bodies; closed lines of one group, alike and apart from each other, are one."""
        members: dict[tuple[int, Appearance | None, tuple[Held, ...]], list[Body]] = {}
        for body, group in self.found:
            key = (group, body.look, body.groups) if group else (-len(members), None, ())
            members.setdefault(key, []).append(body)
        for bodies in members.values():
            whole = concat([body.path for body in bodies])
            if len(bodies) > 1 and whole.closed.all() and ring_nesting(whole, CHORD_MM).nesting is not None:
                yield replace(bodies[0], path=whole)
            else:
                yield from bodies


CHORD_MM = 0.01
"""Chord error within which rings are told apart."""

EVEN = 1e-6


def _is_even(matrix: Transform) -> bool:
    """Whether a matrix makes everything longer alike."""
    a, b, c, d, *_ = matrix
    size = max(abs(a), abs(b), abs(c), abs(d))
    return abs(a * a + b * b - c * c - d * d) <= EVEN * size * size and abs(a * c + b * d) <= EVEN * size * size


def _plane(entity: Entity) -> Transform:
    """From the plane that an entity is drawn in to the drawing as it is seen from above (DXF reference, "Arbitrary axis
    algorithm").
    """
    if entity.kind in SPATIAL or (entity.kind == "POLYLINE" and int(entity.number(70)) & SPATIAL_POLYLINE):
        return IDENTITY
    normal = np.array([entity.number(210), entity.number(220), entity.number(230, 1.0)])
    normal /= np.linalg.norm(normal)
    x = np.cross([0, 1, 0] if np.abs(normal[:2]).max() < 1 / 64 else [0, 0, 1], normal)
    x /= np.linalg.norm(x)
    y = np.cross(normal, x)
    up = normal * entity.number(38 if entity.kind == "LWPOLYLINE" else 30)
    return Transform(*x[:2].tolist(), *y[:2].tolist(), *up[:2].tolist())


def _cannot_be_drawn(entity: Entity) -> bool:
    """Whether it is a block in a plane that isn't the drawing's, or a spline that is told by places on it alone."""
    tilted = any(abs(entity.number(code)) > TILTED for code in (210, 220))
    return (entity.kind == "INSERT" and tilted) or (entity.kind == "SPLINE" and not entity.says(10))


def _colour(entity: Entity, layer: Entity | None, of_block: str) -> str:
    for said in (entity, layer):
        if said is None:
            continue
        if said.text(420):
            return f"#{int(said.text(420)) & 0xFFFFFF:06x}"
        index = abs(int(said.number(62, 256 if said is entity else 7)))
        if index == 0 and said is entity:
            return of_block
        if index not in (0, 256):
            return _indexed(index)
    return "#000000"


OPACITY, OPACITY_OF_BLOCK = 0x02000000, 0x01000000
"""Bits of group 440, or of a layer's extended data, that say an opacity in the last byte, or that it is the block's."""


def _opacity(entity: Entity, layer: Entity | None, of_block: float) -> float:
    said = int(entity.number(440))
    if said & OPACITY_OF_BLOCK:
        return of_block
    if not said & OPACITY and layer is not None and (1001, "AcCmTransparency") in layer.pairs:
        said = int(layer.number(1071))
    return (said & 255) / 255 if said & OPACITY else 1.0


NAMED = ["", "#ff0000", "#ffff00", "#00ff00", "#00ffff", "#0000ff", "#ff00ff", "#000000", "#808080", "#c0c0c0"]
"""The first colours of the index; "white" is black on paper."""

GREYS = [0, 101, 102, 153, 204, 255]
"""Those from 250 on; programs differ on them. Common practice, no source."""

VALUES = [255, 165, 127, 76, 38]
"""The five depths."""

ODD = {147: "#26427e", 157: "#26397e", 167: "#262f7e", 177: "#26267e", 187: "#2f267e", 197: "#39267e"}
ODD |= {109: "#135817", 119: "#13581c", 129: "#135858", 139: "#135858", 149: "#135858", 159: "#131c58"}
ODD |= {169: "#131758", 179: "#131358", 189: "#171358", 199: "#1c1358", 209: "#581358", 219: "#581358"}
ODD |= {229: "#581358", 239: "#58131c", 249: "#581317"}
"""Colours for which the tables that programs carry depart from the rule. Common practice, no source."""


def _indexed(index: int) -> str:
    """A colour of the index: 24 hues, 15 degrees apart, each in five depths, and those half as strong. Common practice,
    no source.
    """
    if index < len(NAMED):
        return NAMED[index]
    if index in ODD:
        return ODD[index]
    if index >= 250:
        return "#{0:02x}{0:02x}{0:02x}".format(GREYS[index - 250]) if index < 256 else "#000000"
    value = VALUES[index % 10 // 2]
    weakest = value // 2 if index % 2 else 0
    hue = colorsys.hsv_to_rgb((index // 10 - 1) * 15 / 360, 1, 1)
    return "#" + "".join(f"{int(weakest + share * (value - weakest)):02x}" for share in hue)
