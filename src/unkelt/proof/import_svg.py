"""The independent reader: svgelements, a general-purpose library, asked only for what importing software looks at.

Importing ignores text, drops effects, takes every path for one body and its fill rule from the file. svgelements'
faults with style sheets, nested documents and `use` are known; files that need them are for the survey, not the proof.
It takes a millimetre for 0.0393701 in, so that all sizes come out 5e-7 too large: half a micrometre on 900 mm.
"""

from __future__ import annotations

import io
import logging
from pathlib import Path as FilePath
from xml.etree.ElementTree import ParseError

import svgelements

from unkelt.errors import InputError
from unkelt.geometry.path import Path, PathBuilder
from unkelt.proof.imported import Body, Imported
from unkelt.units import MM_PER_UNIT

PX = MM_PER_UNIT["px"]


AT_ONCE = 1 << 18, 1 << 20
"""Bytes given to the parser at once: at the beginning, and at most. It lets no other thread have its turn while it reads them, but
begins a long attribute again with every part of it, so that the parts grow with what was read.
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
        raise InputError(str(path), f"can't be read: {problem.strerror}") from problem
    except (ParseError, ValueError, TypeError, IndexError, RecursionError, AttributeError, KeyError) as problem:
        raise InputError(str(path), f"the independent reader can't read it: {problem}") from problem
    if not isinstance(document, svgelements.SVG):
        raise InputError(str(path), "is not SVG")
    bodies: list[Body] = []
    text_left = 0
    # Forgotten one after the other: all that was read would go at once, which keeps every other thread waiting.
    elements = list(document.elements())
    document.objects.clear()
    for element in elements:
        if isinstance(element, svgelements.Group):
            del element[:]
    elements.reverse()
    while elements:
        element = elements.pop()
        if isinstance(element, svgelements.Text):
            text_left += 1
        elif isinstance(element, svgelements.Shape):
            body = _body(element)
            if len(body.path):
                bodies.append(body)
            if isinstance(element, svgelements.Path):
                del element[:]
    width, height = (float(value) * PX for value in (document.width, document.height))
    return Imported((width, height), tuple(bodies), text_left)


def _body(shape: svgelements.Shape) -> Body:
    rule = str(shape.values.get("fill-rule", "nonzero"))
    path = shape if isinstance(shape, svgelements.Path) else svgelements.Path(shape)
    if not path.transform.is_identity():
        path = abs(path)
    return Body(_path(path), _colour(shape.fill), _colour(shape.stroke), rule == "evenodd")


def _colour(colour: svgelements.Color | None) -> str | None:
    if colour is None or colour.value is None or colour.alpha == 0:
        return None
    return f"#{colour.red:02x}{colour.green:02x}{colour.blue:02x}"


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
