"""Presentation properties of an element: attributes and `style=`, inherited where SVG inherits."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

import tinycss2
from lxml import etree
from tinycss2.color4 import parse_color

INITIAL: Mapping[str, str] = MappingProxyType(
    {
        "color": "#000000",
        "fill": "#000000",
        "fill-opacity": "1",
        "fill-rule": "nonzero",
        "font-family": "",
        "font-size": "16",
        "font-style": "normal",
        "font-weight": "400",
        "letter-spacing": "normal",
        "stroke": "none",
        "stroke-linecap": "butt",
        "stroke-linejoin": "miter",
        "stroke-miterlimit": "4",
        "stroke-opacity": "1",
        "stroke-width": "1",
        "text-anchor": "start",
        "visibility": "visible",
        "word-spacing": "normal",
    }
)
"""Inherited properties with their initial values (SVG 1.1, appendix N; font-size "medium" is 16px by convention)."""

NOT_INHERITED: Mapping[str, str] = MappingProxyType({"display": "inline", "opacity": "1"})

Style = Mapping[str, str]


def style_of(element: etree._Element, parent: Style) -> dict[str, str]:
    """The element's properties; `style=` wins over attributes, `inherit` takes the parent's."""
    attributes = {str(name): str(value).strip() for name, value in element.attrib.items()}
    said = {name: value for name, value in attributes.items() if name in INITIAL or name in NOT_INHERITED}
    for declaration in tinycss2.parse_blocks_contents(element.get("style", "")):
        if declaration.type == "declaration":
            said[declaration.lower_name] = tinycss2.serialize(declaration.value).strip()
    result = {name: parent.get(name, value) for name, value in INITIAL.items()} | dict(NOT_INHERITED)
    for name, value in said.items():
        result[name] = parent.get(name, value) if value == "inherit" else value
    return result


def plain_colour(paint: str, current: str) -> str | None:
    """ "#rrggbb" of a paint, None for no paint. Raises ValueError for anything that isn't one plain colour."""
    if paint in ("none", "transparent"):
        return None
    colour = parse_color(paint)
    if colour == "currentcolor":
        colour = parse_color(current)
    if colour is None or isinstance(colour, str):
        raise ValueError(paint)
    red, green, blue = (round(255 * max(0.0, min(1.0, value))) for value in colour.to("srgb")[:3])
    return f"#{red:02x}{green:02x}{blue:02x}"
