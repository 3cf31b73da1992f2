"""Transforms, as attributes and as CSS say them."""

from __future__ import annotations

import math
import re

from fontTools.misc.transform import Identity, Transform

from unkelt.errors import LengthError
from unkelt.formats.svg.page import PX
from unkelt.formats.svg.standing import em_of
from unkelt.formats.svg.style import Style
from unkelt.formats.svg.values import length, numbers

_CALL = re.compile(r"\s*,?\s*(matrix|translate|scale|rotate|skewX|skewY)\s*\(([^)]*)\)")
_CSS_CALL = re.compile(r"\s*([a-zA-Z]+)\(([^()]*)\)\s*")
_ANGLE = re.compile(r"(.*?)(deg|grad|rad|turn)?", re.IGNORECASE)
_PER_ANGLE = {"": 1.0, "deg": 1.0, "grad": 0.9, "rad": math.degrees(1.0), "turn": 360.0}


def parse_transform(text: str) -> Transform | None:
    """The matrix of a `transform` attribute, None where it doesn't follow the grammar (SVG 1.1, section 7.6)."""
    result, position = Identity, 0
    text = text.strip()
    if text == "none":  # as a presentation attribute it may say so (CSS Transforms 1, section 5)
        return Identity
    while position < len(text):
        match = _CALL.match(text, position)
        values = numbers(match[2]) if match else None
        if match is None or values is None:
            return None
        step = _step(match[1], values)
        if step is None:
            return None
        result, position = result.transform(step), match.end()
        if not text[position:].strip(" ,\t\n\r"):
            break
    return result


def _step(name: str, v: list[float]) -> Transform | None:
    match name, len(v):
        case "matrix", 6:
            return Transform(*v)
        case "translate", 1 | 2:
            return Transform(1, 0, 0, 1, v[0], v[1] if len(v) == 2 else 0)
        case "scale", 1 | 2:
            return Transform(v[0], 0, 0, v[-1], 0, 0)
        case "rotate", 1:
            return _rotation(v[0])
        case "rotate", 3:
            x, y = v[1], v[2]
            return Transform(1, 0, 0, 1, x, y).transform(_rotation(v[0])).transform((1, 0, 0, 1, -x, -y))
        case "skewX", 1:
            return Transform(1, 0, math.tan(math.radians(v[0])), 1, 0, 0)
        case "skewY", 1:
            return Transform(1, math.tan(math.radians(v[0])), 0, 1, 0, 0)
    return None


def own_transform(attribute: str | None, origin: str | None, style: Style) -> Transform | None:
    """What an element moves itself by: what CSS says, else its attribute; None where that can't be read."""
    said = style.get("transform")
    if said is None and not attribute:
        return Identity
    em = em_of(style)
    own = parse_css_transform(said, em) if said is not None else parse_transform(attribute or "")
    point = style.get("transform-origin") or origin
    return about(own, point, em) if own is not None and point else own


def parse_css_transform(text: str, em: float) -> Transform | None:
    """The matrix of the CSS property `transform`, in user units, of which 1em is so many; None where it asks for
    anything but plain steps in the plane, or for shares of a box (CSS Transforms 1, section 8).
    """
    result, position = Identity, 0
    text = text.strip()
    if text == "none":
        return result
    while position < len(text):
        match = _CSS_CALL.match(text, position)
        step = _css_step(match[1].lower(), [word.strip() for word in match[2].split(",")], em) if match else None
        if match is None or step is None:
            return None
        result, position = result.transform(step), match.end()
    return result


def about(matrix: Transform, origin: str, em: float) -> Transform | None:
    """A transform about the point that `transform-origin` names, in user units; None where it names shares of a box."""
    try:
        x, y = [_units(word, em) for word in f"{origin} 0".replace(",", " ").split()][:2]
    except LengthError:
        return None
    return Transform(1, 0, 0, 1, x, y).transform(matrix).transform((1, 0, 0, 1, -x, -y))


def _css_step(name: str, words: list[str], em: float) -> Transform | None:
    try:
        match name, len(words):
            case "translate", 1 | 2:
                return Transform(1, 0, 0, 1, _units(words[0], em), _units(words[1], em) if len(words) == 2 else 0)
            case "translatex", 1:
                return Transform(1, 0, 0, 1, _units(words[0], em), 0)
            case "translatey", 1:
                return Transform(1, 0, 0, 1, 0, _units(words[0], em))
            case "rotate" | "rotatez", 1:
                return _rotation(_degrees(words[0]))
            case "skew", 1 | 2:
                across, down = (math.tan(math.radians(_degrees(word))) for word in [*words, "0"][:2])
                return Transform(1, down, across, 1, 0, 0)
            case "skewx" | "skewy", 1:
                return _step(f"skew{name[-1].upper()}", [_degrees(words[0])])
            case "scalex", 1:
                return Transform(float(words[0]), 0, 0, 1, 0, 0)
            case "scaley", 1:
                return Transform(1, 0, 0, float(words[0]), 0, 0)
            case "scale" | "matrix", _:
                return _step(name, [float(word) for word in words])
    except (LengthError, ValueError):
        pass
    return None


def _units(word: str, em: float) -> float:
    return length(word, em * PX)[0] / PX


def _degrees(word: str) -> float:
    match = _ANGLE.fullmatch(word)
    return float(match[1]) * _PER_ANGLE[(match[2] or "").lower()] if match else math.nan


def _rotation(degrees: float) -> Transform:
    """Quarter turns are exact."""
    quarters: dict[float, tuple[float, float]] = {0: (1, 0), 90: (0, 1), 180: (-1, 0), 270: (0, -1)}
    quarter = quarters.get(degrees % 360)
    cos, sin = quarter or (math.cos(math.radians(degrees)), math.sin(math.radians(degrees)))
    return Transform(cos, sin, -sin, cos, 0, 0)
