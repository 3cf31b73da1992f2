"""The elements of SVG by what reading does with them (SVG 1.1 and 2)."""

from __future__ import annotations

NOT_DRAWN = frozenset(
    [
        "title",
        "desc",
        "metadata",
        "defs",
        "namedview",
        "style",
        "symbol",
        "marker",
        "view",
        "cursor",
        "color-profile",
        "clipPath",
        "mask",
        "filter",
        "linearGradient",
        "radialGradient",
        "pattern",
        "solidColor",
        "hatch",
        "font",
        "font-face",
    ]
)
"""Elements that draw nothing where they stand."""

_STILL = "animation is not shown: the drawing is taken as it stands at first"
INERT = {
    "script": "a script is never run, and is not passed on",
    "animate": _STILL,
    "animateTransform": _STILL,
    "animateMotion": _STILL,
    "animateColor": _STILL,
    "set": _STILL,
    "foreignObject": "foreign content is left out: importing drops it",
}
"""Elements that are left out, and what is said of them."""
