"""Lengths with units. Everything inside the product is millimetres; this is where they are converted, once.

Factors: CSS Values and Units, section "Absolute lengths": 1in = 2.54cm = 25.4mm = 101.6Q = 72pt = 6pc = 96px.
"""

from __future__ import annotations

import math
import re
import typing
from functools import lru_cache
from typing import Literal

from unkelt.errors import LengthError
from unkelt.messages import say

MM_PER_UNIT = {
    "mm": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "q": 25.4 / 101.6,
    "in": 25.4,
    "pt": 25.4 / 72,
    "pc": 25.4 / 6,
    "px": 25.4 / 96,
}

_NUMBER = r"[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?"
_LENGTH = re.compile(rf"\s*({_NUMBER})\s*([a-zA-Z%]*)\s*", re.ASCII)
_FRACTION = re.compile(r"\s*([+-])?(?:(\d+)\s+)?(\d+)\s*/\s*(\d+)\s*([a-zA-Z]+)\s*", re.ASCII)


@lru_cache(maxsize=65536)
def split_length(text: str) -> tuple[float, str]:
    """A CSS number and its unit in lower case ("" when there is none).

    Raises LengthError when the text is anything else.
    """
    match = _LENGTH.fullmatch(text)
    if not match:
        raise LengthError(text, "is not a number with a unit")
    value = float(match[1])
    if not math.isfinite(value):
        raise LengthError(text, "is too large")
    return value, match[2].lower()


_PLUS = re.compile(r"(?<=[a-zA-Z0-9)])\s*([+\-−])\s*(?=[\d.(])", re.ASCII)
_TIMES = re.compile(rf"\s*(?:({_NUMBER})\s*[*×]\s*(.+)|(.+?[a-zA-Z])\s*([*×/])\s*({_NUMBER}))\s*")


def parse_length(text: str) -> float:
    """A length in mm from "900 mm", "3 1/2 in", "36pt", and from simple sums: "90 mm + 1/8 in", "2 * 45 mm", "1 m / 3".

    The unit must be given, once for each length. Raises LengthError when there is no unit, or one that isn't a physical
    length. A comma may stand for the decimal point, as many write it, unless it might part thousands.
    """
    text = _decimal_points(text)
    parts = _PLUS.split(text.replace("−", "-"))
    if len(parts) > 1 and not _LENGTH.fullmatch(text):
        total = parse_length(parts[0])
        for sign, term in zip(parts[1::2], parts[2::2], strict=True):
            total += parse_length(term) * (1 if sign == "+" else -1)
        return total
    if (match := _TIMES.fullmatch(text)) and not _FRACTION.fullmatch(text):
        before, length, first, sign, after = match.groups()
        if before is not None:
            return float(before) * parse_length(length)
        if sign == "/" and float(after) == 0:
            raise LengthError(text, "divides by zero")
        return parse_length(first) / float(after) if sign == "/" else parse_length(first) * float(after)
    return _single_length(text)


def _decimal_points(text: str) -> str:
    if re.search(r"\d,\d{3}(?!\d)", text):
        raise LengthError(
            text, "may be meant with thousands or with decimals; write it with a point, or without the comma"
        )
    return re.sub(r"(?<=\d),(?=\d)", ".", text)


def _single_length(text: str) -> float:
    if match := _FRACTION.fullmatch(text):
        sign, whole, over, under, unit = match.groups()
        if int(under) == 0:
            raise LengthError(text, "divides by zero")
        value = int(whole or 0) + int(over) / int(under)
        value = -value if sign == "-" else value
        unit = unit.lower()
    else:
        value, unit = split_length(text)
    if not unit:
        raise LengthError(text, "has no unit; write for example “900 mm” or “3 1/2 in”")
    if unit not in MM_PER_UNIT:
        raise LengthError(
            text,
            say("has a unit that is not a length: {unit} (known: {listed})", unit=unit, listed=", ".join(MM_PER_UNIT)),
        )
    return value * MM_PER_UNIT[unit]


FileUnit = Literal["96 to the inch", "90 to the inch", "72 to the inch", "mm", "cm", "in", "m", "ft", "thou"]
_MM = {"mm": 1.0, "cm": 10.0, "in": 25.4, "m": 1000.0, "ft": 304.8, "thou": 0.0254}

FILE_UNITS: tuple[str, ...] = typing.get_args(FileUnit)
"""What one unit of a file may be, where the file doesn't say it."""


def unit_factor(units: str, kind: str) -> float | None:
    """By how much a sheet grows when its file's unit is `units`; None where that makes no sense for its kind."""
    if units.endswith("inch"):
        return 96 / float(units.split()[0]) if kind == "SVG" else None
    assumed = 25.4 / 96 if kind == "SVG" else 1.0  # how reading took one unit, in mm
    return _MM[units] / assumed
