"""Writing SVG 1.1: plain, true to size, always the same for the same sheet.

Presentation attributes only, one `path` an outline, one user unit a millimetre.
"""

from __future__ import annotations

from typing import Any

from fontTools.misc.transform import Identity, Transform
from lxml import etree

from unkelt.formats.svg.pathdata import format_path_data
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Group, Item, Lettering, Outline, Picture, Sheet

SVG = "http://www.w3.org/2000/svg"
XLINK = "http://www.w3.org/1999/xlink"
PLACES = 5
"""Decimals of a mm that are written: 10 nm."""


def write_svg(sheet: Sheet) -> bytes:
    """The sheet as an SVG document. Live text is written as text, pictures as a reference to where they were."""
    namespaces: dict[Any, str] = {None: SVG}
    if any(isinstance(item, Picture) for item in sheet.walk()):
        namespaces["xlink"] = XLINK
    root = etree.Element(f"{{{SVG}}}svg", nsmap=namespaces)
    width, height = (_number(value) for value in sheet.page_mm)
    root.set("version", "1.1")
    root.set("width", f"{width}mm")
    root.set("height", f"{height}mm")
    root.set("viewBox", f"0 0 {width} {height}")
    for item in sheet.items:
        _write_item(root, item)
    etree.indent(root, " ")
    for element in root.iter(f"{{{SVG}}}text"):  # blanks inside a text are letters of it
        element.text = None
        for part in element:
            part.tail = None
    document: bytes = etree.tostring(root, xml_declaration=True, encoding="UTF-8")
    return document + b"\n"


def _write_item(parent: etree._Element, item: Item) -> None:
    match item:
        case Group():
            element = _element(parent, "g", item.id, item.label)
            for inner in item.items:
                _write_item(element, inner)
        case Outline():
            element = _element(parent, "path", item.id, item.label)
            _write_look(element, item.look)
            path = item.path
            if item.look.pen:  # a stroke that its transform shapes keeps that transform
                pen = Transform(*item.look.pen, 0, 0)
                element.set("transform", f"matrix({' '.join(_number(value, 8) for value in pen)})")
                path = path.transformed(pen.inverse())
            element.set("d", format_path_data(path, PLACES))
        case Lettering():
            _write_text(parent, item)
        case Picture():
            element = _element(parent, "image", item.id, item.label)
            x0, y0, x1, y1 = item.box
            for name, value in (("x", x0), ("y", y0), ("width", x1 - x0), ("height", y1 - y0)):
                element.set(name, _number(value))
            element.set(f"{{{XLINK}}}href", item.reference)


def _element(parent: etree._Element, tag: str, item_id: str, label: str | None) -> etree._Element:
    element = etree.SubElement(parent, f"{{{SVG}}}{tag}")
    element.set("id", item_id)
    if label:
        etree.SubElement(element, f"{{{SVG}}}title").text = label
    return element


def _write_look(element: etree._Element, look: Appearance) -> None:
    if not look.visible:
        element.set("display", "none")
    element.set("fill", look.fill or "none")
    if look.fill and look.even_odd:
        element.set("fill-rule", "evenodd")
    if look.stroke:
        element.set("stroke", look.stroke)
        element.set("stroke-width", _number(look.stroke_width_mm))
        for name, value, initial in (
            ("stroke-linejoin", look.line_join, "miter"),
            ("stroke-linecap", look.line_cap, "butt"),
            ("stroke-miterlimit", _number(look.mitre_limit), "4"),
        ):
            if value != initial:
                element.set(name, value)
        if look.dashes_mm:
            element.set("stroke-dasharray", " ".join(_number(value) for value in look.dashes_mm))
            if look.dash_offset_mm:
                element.set("stroke-dashoffset", _number(look.dash_offset_mm))
    if look.opacity != 1:
        element.set("opacity", _number(look.opacity))


def _write_text(parent: etree._Element, item: Lettering) -> None:
    element = _element(parent, "text", item.id, item.label)
    element.set("{http://www.w3.org/XML/1998/namespace}space", "preserve")
    if item.placement != Identity:
        element.set("transform", f"matrix({' '.join(_number(value, 8) for value in item.placement)})")
    if item.anchor != "start":
        element.set("text-anchor", item.anchor)
    for run in item.runs:
        part = etree.SubElement(element, f"{{{SVG}}}tspan")
        part.text = run.text
        for name, value in zip(("x", "y"), run.at, strict=True):
            if value is not None:
                part.set(name, _number(value))
        for name, shift in zip(("dx", "dy"), run.shift, strict=True):
            if shift:
                part.set(name, _number(shift))
        families = ", ".join(f"'{name}'" if " " in name else name for name in run.face.families)
        part.set("font-family", families)
        part.set("font-size", _number(run.size_mm))
        if run.face.weight != 400:
            part.set("font-weight", str(run.face.weight))
        if run.face.italic:
            part.set("font-style", "italic")
        for name, value in (("letter-spacing", run.letter_spacing_mm), ("word-spacing", run.word_spacing_mm)):
            if value:
                part.set(name, _number(value))
        _write_look(part, run.look)


def _number(value: float, places: int = PLACES) -> str:
    text = f"{value:.{places}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
