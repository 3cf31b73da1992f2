"""Which values a property of a style can have: others are passed over, as if nobody had said them (CSS Syntax 3, 9)."""

from __future__ import annotations

import re

from unkelt.units import MM_PER_UNIT

EVERYWHERE = frozenset(["inherit", "initial", "revert", "revert-layer", "unset"])
"""What every property can say (CSS Cascade 5, 7.3)."""

KEYWORDS = {
    "clip-rule": frozenset(["nonzero", "evenodd"]),
    "fill-rule": frozenset(["nonzero", "evenodd"]),
    "stroke-linecap": frozenset(["butt", "round", "square"]),
    "stroke-linejoin": frozenset(["miter", "miter-clip", "round", "bevel", "arcs"]),
    "visibility": frozenset(["visible", "hidden", "collapse"]),
}
"""Properties that know nothing but some words, in any case of letters."""

_NUMBER = r"[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?"
_SHARE = re.compile(rf"{_NUMBER}%?", re.ASCII)
_UNITS = "|".join([*MM_PER_UNIT, "em", "ex", "%"])
_LENGTH = re.compile(rf"{_NUMBER}(?:{_UNITS})?", re.ASCII | re.IGNORECASE)
_POSITIVE = re.compile(rf"(?!-)(?:{_LENGTH.pattern})", re.ASCII | re.IGNORECASE)
_DASHES = re.compile(rf"none|{_POSITIVE.pattern}(?:(?:\s+|\s*,\s*){_POSITIVE.pattern})*", re.ASCII | re.IGNORECASE)

PATTERNS = {
    "fill-opacity": _SHARE,
    "opacity": _SHARE,
    "stroke-dasharray": _DASHES,
    "stroke-dashoffset": _LENGTH,
    "stroke-opacity": _SHARE,
    "stroke-width": _POSITIVE,
}
"""Properties that are numbers, or lengths in units that Unkelt knows."""


def can_say(name: str, value: str) -> bool:
    """Whether a property can have a value; of properties that aren't listed here, any."""
    if value.lower() in EVERYWHERE or "var(" in value:
        return True
    if name in KEYWORDS:
        return value.lower() in KEYWORDS[name]
    return name not in PATTERNS or PATTERNS[name].fullmatch(value) is not None
