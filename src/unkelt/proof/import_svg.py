"""The independent reader: svgelements, a general-purpose library, asked only for what importing software looks at.

Importing ignores text, drops effects, takes every path for one body and its fill rule from the file. svgelements'
faults with style sheets, nested documents and `use` are known; files that need them are for the survey, not the proof.
It takes a millimetre for 0.0393701 in, so that all sizes come out 5e-7 too large: half a micrometre on 900 mm.
"""

from __future__ import annotations

import io
import logging
from collections.abc import Iterator
from pathlib import Path as FilePath
from typing import Any
from xml.etree.ElementTree import ParseError

import svgelements

from unkelt.errors import InputError
from unkelt.geometry.path import Path, PathBuilder
from unkelt.messages import say
from unkelt.proof.imported import Body, Held, Imported
from unkelt.sheet.model import LAYER, READS, Reads
from unkelt.units import MM_PER_UNIT

PX = MM_PER_UNIT["px"]


AT_ONCE = 1 << 18, 1 << 20
"""Bytes given to the parser at once: at the beginning, and at most. It lets no other thread have its turn while it
reads them, but begins a long attribute again with every part of it, so that the parts grow with what was read.
"""


class _InParts(io.BytesIO):
    def read(self, size: int | None = -1, /) -> bytes:  # noqa: ARG002
        least, most = AT_ONCE
        return super().read(min(max(least, self.tell() >> 4), most))


def import_svg(path: FilePath) -> Imported:
    """Reads the file from the disk. Raises InputError in one sentence where that can't be done."""
    logging.getLogger("svgelements").setLevel(logging.CRITICAL)
    try:
        data = path.read_bytes()
        document = svgelements.SVG.parse(_InParts(data), reify=True, ppi=96)
    except FileNotFoundError as problem:
        raise InputError(str(path), "there is no such file") from problem
    except OSError as problem:
        raise InputError(str(path), say("can't be read: {strerror}", strerror=problem.strerror)) from problem
    except (ParseError, ValueError, TypeError, IndexError, RecursionError, AttributeError, KeyError) as problem:
        raise InputError(
            str(path), say("the independent reader can't read it: {problem}", problem=problem)
        ) from problem
    if not isinstance(document, svgelements.SVG):
        raise InputError(str(path), "is not SVG")
    bodies: list[Body] = []
    counts = {"text": 0, "image": 0}
    for element, groups in _leaves(document):
        if isinstance(element, svgelements.Text | svgelements.Image):
            tag = str(element.values.get("tag", ""))
            counts[tag] = counts.get(tag, 0) + 1
        elif isinstance(element, svgelements.Shape):
            body = _body(element, groups)
            if len(body.path):
                bodies.append(body)
            if isinstance(element, svgelements.Path):
                del element[:]
    width, height = (float(value) * PX for value in (document.width, document.height))
    sure = all(_is_physical(document.values.get(side)) for side in ("width", "height"))
    box = document.viewbox
    number_mm = width / box.width if box is not None and box.width else PX
    return Imported((width, height), tuple(bodies), counts["text"], counts["image"], sure=sure, number_mm=number_mm)


def _leaves(document: svgelements.SVG) -> Iterator[tuple[Any, tuple[Held, ...]]]:
    """All that is drawn, in the file's order, with the groups around it.

    Forgotten one after the other: all that was read would go at once, which keeps every other thread waiting.
    """
    document.objects.clear()
    stack: list[tuple[Any, tuple[Held, ...]]] = [(document, ())]
    while stack:
        element, groups = stack.pop()
        if not isinstance(element, svgelements.Group):
            yield element, groups
            continue
        inner, around = list(element), groups
        del element[:]
        if element is not document:
            said = str(element.values.get("class") or "").split()
            around = (*groups, Held(str(element.values.get("id") or f"group-{len(stack)}"), LAYER in said))
        stack.extend((each, around) for each in reversed(inner))


def _is_physical(size: object) -> bool:
    """Whether a page's side is a length that doesn't hang on somebody's resolution."""
    return str(size or "").strip().lower().endswith(("mm", "cm", "in", "pt", "pc", "q"))


def _body(shape: svgelements.Shape, groups: tuple[Held, ...]) -> Body:
    values = shape.values
    path = shape if isinstance(shape, svgelements.Path) else svgelements.Path(shape)
    if not path.transform.is_identity():
        path = abs(path)
    whole = _number(values.get("opacity"), 1.0)
    (fill, fill_opacity), (stroke, stroke_opacity) = _colour(shape.fill), _colour(shape.stroke)
    width = float(shape.stroke_width or 0.0) * PX
    said = str(values.get("class") or "").split()
    return Body(
        _path(path),
        fill,
        stroke if width > 0 else None,
        str(values.get("fill-rule", "nonzero")) == "evenodd",
        width,
        fill_opacity * whole,
        stroke_opacity * whole,
        str(values.get("visibility", "visible")) == "visible",
        groups=groups,
        reads=next((reads for reads, name in READS.items() if name in said), Reads.FORWARDS),
    )


def _number(said: object, otherwise: float) -> float:
    try:
        return float(str(said)) if said is not None else otherwise
    except ValueError:
        return otherwise


def _colour(colour: svgelements.Color | None) -> tuple[str | None, float]:
    """A paint and its opacity; none where nothing is painted."""
    if colour is None or colour.value is None or colour.alpha == 0:
        return None, 1.0
    return f"#{colour.red:02x}{colour.green:02x}{colour.blue:02x}", colour.alpha / 255


def _path(found: svgelements.Path) -> Path:
    builder = PathBuilder()
    for segment in found:
        if isinstance(segment, svgelements.Move):
            builder.move_to(*_points(segment.end))
        elif isinstance(segment, svgelements.Close):
            builder.close()
        elif isinstance(segment, svgelements.CubicBezier):
            builder.cubic_to(*_points(segment.control1, segment.control2, segment.end))
        elif isinstance(segment, svgelements.QuadraticBezier):
            builder.quad_to(*_points(segment.control, segment.end))
        elif isinstance(segment, svgelements.Arc):
            for cubic in segment.as_cubic_curves():
                builder.cubic_to(*_points(cubic.control1, cubic.control2, cubic.end))
        else:
            builder.line_to(*_points(segment.end))
    return builder.path()


def _points(*points: svgelements.Point) -> list[float]:
    return [value * PX for point in points for value in (point.x, point.y)]
