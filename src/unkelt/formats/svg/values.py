"""Attribute values: lengths and number lists."""

from __future__ import annotations

import math
import re
from functools import lru_cache
from typing import overload

from lxml import etree

from unkelt.errors import LengthError
from unkelt.units import MM_PER_UNIT, split_length

TAKEN_FROM = "data-guide"
"""Which item of the file the path of a text was taken from: SVG has no word for it."""

SVG = "http://www.w3.org/2000/svg"
_NUMBER = re.compile(r"[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?", re.ASCII)


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
