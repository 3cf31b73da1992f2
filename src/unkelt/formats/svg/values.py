"""Attribute values: lengths, number lists, transforms."""

from __future__ import annotations

import math
import re
from functools import lru_cache
from typing import overload

from fontTools.misc.transform import Identity, Transform
from lxml import etree

from unkelt.errors import LengthError
from unkelt.units import MM_PER_UNIT, split_length

TAKEN_FROM = "data-guide"
"""Which item of the file the path of a text was taken from: SVG has no word for it."""

SVG = "http://www.w3.org/2000/svg"
_NUMBER = re.compile(r"[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?", re.ASCII)
_CALL = re.compile(r"\s*,?\s*(matrix|translate|scale|rotate|skewX|skewY)\s*\(([^)]*)\)")


def local_name(element: etree._Element) -> str:
    """The tag without its namespace; "" for anything that isn't an SVG element."""
    tag = element.tag
    return _local(tag) if isinstance(tag, str) else ""


@lru_cache(maxsize=1024)
def _local(tag: str) -> str:
    if tag[0] != "{":
        return tag
    namespace, _, name = tag[1:].partition("}")
    return name if namespace == SVG else ""


def attributes_of(element: etree._Element) -> dict[str, str]:
    """An element's attributes; the parser gives text for all of them."""
    return dict(element.items())  # type: ignore[arg-type]


def length(text: str, em: float | None = None, whole: float | None = None) -> tuple[float, str]:
    """A CSS length in mm at 96 user units to the inch, and its unit as written.

    `em` and `whole` are what 1em and 100 % are, in mm. Raises LengthError.
    """
    value, unit = split_length(text)
    if unit in ("em", "ex") and em is not None:
        return value * em * (0.5 if unit == "ex" else 1.0), unit
    if unit == "%" and whole is not None:
        return value * whole / 100, unit
    if unit and unit not in MM_PER_UNIT:
        raise LengthError(text, "has a unit that can't be used here")
    return value * MM_PER_UNIT[unit or "px"], unit


@lru_cache(maxsize=65536)
def plain_number(text: str) -> float | None:
    """The value of a number without unit; None for anything else."""
    value = float(text) if _NUMBER.fullmatch(text) else math.inf
    return value if math.isfinite(value) else None


@overload
def numbers(text: str) -> list[float] | None: ...
@overload
def numbers(text: str, default: list[float]) -> list[float]: ...
def numbers(text: str, default: list[float] | None = None) -> list[float] | None:
    """Numbers parted by spaces or commas; `default` where there is anything else, or nothing."""
    rest = _NUMBER.sub("", text)
    found = [float(number) for number in _NUMBER.findall(text)]
    if rest.replace(",", " ").strip() or not found or not all(map(math.isfinite, found)):
        return default
    return found


def parse_transform(text: str) -> Transform | None:
    """The matrix of a `transform` attribute, None where it doesn't follow the grammar (SVG 1.1, section 7.6)."""
    result, position = Identity, 0
    text = text.strip()
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


def _rotation(degrees: float) -> Transform:
    """Quarter turns are exact."""
    quarters: dict[float, tuple[float, float]] = {0: (1, 0), 90: (0, 1), 180: (-1, 0), 270: (0, -1)}
    quarter = quarters.get(degrees % 360)
    cos, sin = quarter or (math.cos(math.radians(degrees)), math.sin(math.radians(degrees)))
    return Transform(cos, sin, -sin, cos, 0, 0)
