"""The basic shapes as paths (SVG 1.1, chapter 9), in user units."""

from __future__ import annotations

import math
import re

from fontTools.misc.transform import Identity, Transform

from unkelt.formats.limits import FARTHEST
from unkelt.formats.svg.page import Attributes
from unkelt.formats.svg.style import Style
from unkelt.formats.svg.values import length, numbers, plain_number
from unkelt.geometry.arcs import arc_to_cubics
from unkelt.geometry.path import EMPTY, Path, PathBuilder, lines, polygon
from unkelt.messages import say
from unkelt.units import MM_PER_UNIT

SHAPES = frozenset(["rect", "circle", "ellipse", "line", "polyline", "polygon"])


_SETTABLE = {
    "rect": ("x", "y", "width", "height", "rx", "ry"),
    "circle": ("cx", "cy", "r"),
    "ellipse": ("cx", "cy", "rx", "ry"),
    "image": ("x", "y", "width", "height"),
}
_PATH = re.compile(r"""path\(\s*(["'])(.*)\1\s*\)""", re.DOTALL)


def css_geometry(tag: str, style: Style) -> dict[str, str]:
    """What CSS says of an element's own geometry, as its attributes would (SVG 2, 4.2)."""
    found = {name: style[name] for name in _SETTABLE.get(tag, ()) if name in style}
    if tag == "path" and (match := _PATH.fullmatch(style.get("d", ""))):
        found["d"] = match[2]
    return found


def shape_path(
    tag: str,
    attributes: Attributes,
    arc_error: float,
    viewport: tuple[float, float] = (100.0, 100.0),
    matrix: Transform = Identity,
    em: float = 16.0,
) -> Path | str:
    """The path of a shape (empty where SVG draws nothing), carried by `matrix`, or the reason why there is none.

    `viewport` is what percentages are of, and `em` what 1em is, in user units.
    """
    if tag == "rect" and matrix.xy == matrix.yx == 0 and "rx" not in attributes and "ry" not in attributes:
        # The plain case, of which there may be very many.
        x, y, width, height = [plain_number(attributes.get(name, "0")) for name in ("x", "y", "width", "height")]
        if width and height and width > 0 and height > 0 and x is not None and y is not None:
            a, b = matrix.xx * x + matrix.dx, matrix.yy * y + matrix.dy
            c, d = matrix.xx * (x + width) + matrix.dx, matrix.yy * (y + height) + matrix.dy
            if abs(a) <= FARTHEST and abs(b) <= FARTHEST and abs(c) <= FARTHEST and abs(d) <= FARTHEST:
                return lines(
                    [a, b, a, b, c, b, c, b, c, b, c, b, c, d, c, d, c, d, c, d, a, d, a, d, a, d, a, d, a, b, a, b]
                )
    path = _shape(tag, attributes, arc_error, viewport, matrix, em)
    return (
        path
        if isinstance(path, str) or path.within(FARTHEST)
        else say("it lies beyond {farthest:g} mm", farthest=FARTHEST)
    )


def _shape(
    tag: str, attributes: Attributes, arc_error: float, viewport: tuple[float, float], matrix: Transform, em: float
) -> Path | str:
    px = MM_PER_UNIT["px"]
    carried = matrix.transformPoints

    def get(name: str, default: float = 0.0) -> float:
        text = attributes.get(name)
        if text is None or text in ("", "auto"):
            return default
        if name == "r":
            whole = math.hypot(*viewport) / math.sqrt(2)
        else:
            whole = viewport[1] if name in ("y", "y1", "y2", "cy", "ry", "height") else viewport[0]
        return length(str(text), em * px, whole * px)[0] / px

    if tag == "line":
        return polygon(*carried([(get("x1"), get("y1")), (get("x2"), get("y2"))]), closed=False)
    if tag in ("polyline", "polygon"):
        text = str(attributes.get("points", "")).strip()
        values = numbers(text, [])
        if text and (not values or len(values) % 2):
            return "its points can't be read as pairs of numbers"
        points = list(zip(values[::2], values[1::2], strict=True))
        return polygon(*carried(points), closed=tag == "polygon") if points else EMPTY
    if tag == "rect":
        width, height = get("width"), get("height")
        if width < 0 or height < 0:
            return "it has a negative size"
        x, y = get("x"), get("y")
        if not width or not height:
            return EMPTY
        rx, ry = get("rx", -1), get("ry", -1)
        rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
        if not rx or not ry or rx < 0 or ry < 0:
            return polygon(*carried([(x, y), (x + width, y), (x + width, y + height), (x, y + height)]))
        return _rounded(x, y, width, height, min(rx, width / 2), min(ry, height / 2), arc_error).transformed(matrix)
    if tag == "circle":
        rx = ry = get("r")
    else:  # one that isn't said is as the other (SVG 2, 10.4)
        rx, ry = get("rx", math.nan), get("ry", math.nan)
        rx, ry = (0.0 if math.isnan(ry) else ry) if math.isnan(rx) else rx, rx if math.isnan(ry) else ry
        ry = 0.0 if math.isnan(ry) else ry
    if rx < 0 or ry < 0:
        return "it has a negative radius"
    if not rx or not ry:
        return EMPTY
    return _ellipse(get("cx"), get("cy"), rx, ry, arc_error).transformed(matrix)


def _ellipse(cx: float, cy: float, rx: float, ry: float, error: float) -> Path:
    """From the "3 o'clock" point on, clockwise as seen (SVG 1.1, 9.3 and 9.4): dashes and text are laid from there."""
    builder = PathBuilder()
    at = (cx + rx, cy)
    builder.move_to(*at)
    for after in ((cx, cy + ry), (cx - rx, cy), (cx, cy - ry), (cx + rx, cy)):
        for cubic in arc_to_cubics(*at, rx, ry, 0, False, True, *after, error):
            builder.cubic_to(*cubic)
        at = after
    builder.close()
    return builder.path()


def _rounded(x: float, y: float, w: float, h: float, rx: float, ry: float, error: float) -> Path:
    """A rectangle with elliptical corners, from the end of the first corner on (SVG 1.1, 9.2). Sides of no length are
    left out.
    """
    builder = PathBuilder()
    builder.move_to(x + rx, y)
    at = (x + rx, y)
    corners = [
        ((x + w - rx, y), (x + w, y + ry)),
        ((x + w, y + h - ry), (x + w - rx, y + h)),
        ((x + rx, y + h), (x, y + h - ry)),
        ((x, y + ry), (x + rx, y)),
    ]
    for before, after in corners:
        if max(abs(before[0] - at[0]), abs(before[1] - at[1])) > 1e-12 * (w + h):
            builder.line_to(*before)
            at = before
        for cubic in arc_to_cubics(*at, rx, ry, 0, False, True, *after, error):
            builder.cubic_to(*cubic)
        at = after
    builder.close()
    return builder.path()
