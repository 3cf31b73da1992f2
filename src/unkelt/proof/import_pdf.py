"""PDF as importing software reads it: the first page's operators, taken apart by pypdf, which shares nothing with our
reader.

Operators as in ISO 32000-1, section 8.5 (paths) and 8.6.8 (colours). Forms, clips and images are left out, as importing
often does.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path as FilePath
from typing import Any

from fontTools.misc.transform import Identity, Transform
from pypdf import PdfReader
from pypdf.errors import PyPdfError
from pypdf.generic import ContentStream

from unkelt.errors import InputError
from unkelt.geometry.path import PathBuilder
from unkelt.messages import say
from unkelt.proof.imported import Body, Imported
from unkelt.sheet.model import Reads
from unkelt.units import MM_PER_UNIT

MM = MM_PER_UNIT["pt"]
_FILLS = {b"f": False, b"F": False, b"f*": True, b"B": False, b"B*": True, b"b": False, b"b*": True}
_STROKES = frozenset([b"S", b"s", b"B", b"B*", b"b", b"b*"])
_CLOSING = frozenset([b"s", b"b", b"b*"])


def import_pdf(path: FilePath) -> Imported:
    """One body a painted path, in mm, y down. Raises InputError in one sentence."""
    try:
        reader = PdfReader(str(path))
        page = reader.pages[0]
        operations = ContentStream(page.get_contents(), reader).operations
        box = [float(value) for value in page.mediabox]
    except (OSError, PyPdfError, ValueError, IndexError, KeyError, TypeError, AttributeError) as problem:
        raise InputError(
            str(path), say("the independent reader can't read it: {problem}", problem=problem)
        ) from problem
    unit = float(page.get("/UserUnit", 1.0)) * MM
    walker = _Walker(Transform(unit, 0, 0, -unit, -box[0] * unit, box[3] * unit), _alphas(page), _images(page))
    for operands, operator in operations:
        walker.take(operator, operands)
    size = ((box[2] - box[0]) * unit, (box[3] - box[1]) * unit)
    return Imported(size, tuple(walker.bodies), walker.texts, walker.images, kind="PDF")


def _alphas(page: Any) -> dict[str, tuple[float, float]]:
    """The opacities of fill and stroke that each named graphics state asks for."""
    states = page.get("/Resources", {}).get("/ExtGState", {})
    found = {}
    for name, state in states.items():
        said = state.get_object()
        found[str(name)] = float(said.get("/ca", 1.0)), float(said.get("/CA", 1.0))
    return found


def _images(page: Any) -> frozenset[str]:
    """The names of the page's raster pictures."""
    objects = page.get("/Resources", {}).get("/XObject", {})
    return frozenset(str(name) for name, each in objects.items() if each.get_object().get("/Subtype") == "/Image")


@dataclass(frozen=True)
class _State:
    """The graphics state as far as it matters: widths in user units, opacities from 0 to 1."""

    matrix: Transform = Identity
    fill: str = "#000000"
    stroke: str = "#000000"
    width: float = 1.0
    fill_alpha: float = 1.0
    stroke_alpha: float = 1.0


class _Walker:
    """The graphics state as far as it matters, and the path being built."""

    def __init__(
        self, page: Transform, alphas: Mapping[str, tuple[float, float]], pictures: frozenset[str] = frozenset()
    ) -> None:
        self.page, self.alphas, self.pictures = page, alphas, pictures
        self.state = _State()
        self.saved: list[_State] = []
        self.bodies: list[Body] = []
        self.texts = self.images = 0
        self._fresh()

    @property
    def matrix(self) -> Transform:
        return self.state.matrix

    def _fresh(self) -> None:
        self.builder, self.now, self.empty = PathBuilder(), (0.0, 0.0), True

    def take(self, operator: bytes, operands: list[Any]) -> None:
        if operator == b"q":
            self.saved.append(self.state)
        elif operator == b"Q" and self.saved:
            self.state = self.saved.pop()
        elif operator == b"cm":
            self.state = replace(self.state, matrix=self.matrix.transform(Transform(*map(float, operands))))
        elif operator == b"w":
            self.state = replace(self.state, width=float(operands[0]))
        elif operator == b"gs":
            fill, stroke = self.alphas.get(str(operands[0]), (self.state.fill_alpha, self.state.stroke_alpha))
            self.state = replace(self.state, fill_alpha=fill, stroke_alpha=stroke)
        elif operator in (b"rg", b"RG", b"g", b"G"):
            values = [float(value) for value in operands] * (3 if operator in (b"g", b"G") else 1)
            colour = "#" + "".join(f"{round(255 * min(1.0, max(0.0, value))):02x}" for value in values)
            self.state = replace(self.state, fill=colour) if operator.islower() else replace(self.state, stroke=colour)
        elif operator == b"Do" and str(operands[0]) in self.pictures:
            self.images += 1
        elif operator in (b"Tj", b"TJ", b"'", b'"'):
            self.texts += 1
        elif operator in (b"m", b"l", b"c", b"v", b"y", b"h", b"re"):
            self._build(operator, [float(value) for value in operands])
        elif operator in _FILLS or operator in _STROKES:
            self._paint(operator)
        elif operator == b"n":
            self._fresh()

    def _build(self, operator: bytes, v: list[float]) -> None:
        self.empty = False
        if operator == b"h":
            self.builder.close()
            return
        if operator == b"re":
            x, y, width, height = v
            corners = [(x, y), (x + width, y), (x + width, y + height), (x, y + height)]
            self.builder.move_to(*self._place(*corners[0]))
            for corner in corners[1:]:
                self.builder.line_to(*self._place(*corner))
            self.builder.close()
            return
        points = list(zip(v[::2], v[1::2], strict=True))
        if operator == b"m":
            self.builder.move_to(*self._place(*points[0]))
        elif operator == b"l":
            self.builder.line_to(*self._place(*points[0]))
        else:
            if operator == b"v":
                points = [self.now, *points]
            elif operator == b"y":
                points = [*points, points[-1]]
            (x1, y1), (x2, y2), (x3, y3) = (self._place(*point) for point in points)
            self.builder.cubic_to(x1, y1, x2, y2, x3, y3)
        self.now = points[-1]

    def _place(self, x: float, y: float) -> tuple[float, float]:
        placed: tuple[float, float] = self.page.transformPoint(self.matrix.transformPoint((x, y)))
        return placed

    def _paint(self, operator: bytes) -> None:
        if operator in _CLOSING:
            self.builder.close()
        path = self.builder.path()
        if len(path):
            state = self.state
            fill = state.fill if operator in _FILLS else None
            stroke = state.stroke if operator in _STROKES else None
            whole = self.page.transform(self.matrix)
            scale = abs(whole.xx * whole.yy - whole.xy * whole.yx) ** 0.5
            rule = _FILLS.get(operator, False)
            self.bodies.append(
                Body(
                    path,
                    fill,
                    stroke,
                    rule,
                    state.width * scale,
                    state.fill_alpha,
                    state.stroke_alpha,
                    reads=Reads.UNKNOWN,
                )
            )
        self._fresh()
