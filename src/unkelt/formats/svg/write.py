"""Writing SVG 1.1: plain, true to size, always the same for the same sheet.

Presentation attributes only, one `path` an outline, one user unit a millimetre where nobody asks for another.
"""

from __future__ import annotations

import math
from typing import Any

from fontTools.misc.transform import Identity, Transform
from lxml import etree

from unkelt.errors import InputError
from unkelt.formats.plain import refuse_one_sided
from unkelt.formats.readable import readable
from unkelt.formats.svg.pathdata import format_path_data
from unkelt.formats.svg.unsayable import unsayable
from unkelt.formats.svg.values import TAKEN_FROM
from unkelt.messages import say
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.change import counted_in
from unkelt.sheet.model import LAYER, READS, Group, Item, Lettering, Outline, Picture, Run, Sheet
from unkelt.sheet.naming import called
from unkelt.sheet.pens import dash_phase_mm

SVG = "http://www.w3.org/2000/svg"
XLINK = "http://www.w3.org/1999/xlink"
PLACES = 5
"""Decimals of a mm that are written where nothing says how many are needed: 10 nm."""

ROUNDING_SHARE = 0.05
"""Share of the tolerance that rounding may take."""


def places_for(chord_mm: float) -> int:
    """As few decimals of a mm as keep rounding, at most √½ of the last one, within its share of the tolerance."""
    return min(PLACES, max(0, math.ceil(math.log10(math.sqrt(0.5) / (ROUNDING_SHARE * chord_mm)))))


def write_svg(sheet: Sheet, places: int = PLACES, number_mm: float = 1.0) -> bytes:
    """The sheet as an SVG document, its outlines to so many decimals. Live text is written as text, pictures as a
    reference to where they were. `number_mm` is how many mm one of its numbers means.
    """
    page_mm, sheet = sheet.page_mm, counted_in(sheet, number_mm)
    namespaces: dict[Any, str] = {None: SVG}
    if any(isinstance(item, Picture) or (isinstance(item, Lettering) and item.guide) for item in sheet.walk()):
        namespaces["xlink"] = XLINK
    root = etree.Element(f"{{{SVG}}}svg", nsmap=namespaces)
    width, height = (_number(value) for value in sheet.page_mm)
    root.set("version", "1.1")
    for side, length in zip(("width", "height"), page_mm, strict=True):
        root.set(side, f"{_number(length)}mm")
    root.set("viewBox", f"0 0 {width} {height}")
    for item in sheet.items:
        _write_item(root, item, places)
    etree.indent(root, " ")
    for element in root.iter(f"{{{SVG}}}text"):  # blanks inside a text are letters of it
        element.text = None
        for part in element.iterdescendants():
            part.tail = None
            if len(part):
                part.text = None
    document: bytes = etree.tostring(root, xml_declaration=True, encoding="UTF-8")
    return document + b"\n"


def _write_item(parent: etree._Element, item: Item, places: int) -> None:
    match item:
        case Group():
            element = _element(parent, "g", item.id, item.label)
            if item.is_layer:
                element.set("class", LAYER)
            for inner in item.items:
                _write_item(element, inner, places)
        case Outline():
            refuse_one_sided(item)
            element = _element(parent, "path", item.id, item.label)
            if item.reads in READS:
                element.set("class", READS[item.reads])
            _write_look(element, item.look)
            path = item.path
            if item.look.pen:  # a stroke that its transform shapes keeps that transform
                pen = Transform(*item.look.pen, 0, 0)
                element.set("transform", f"matrix({' '.join(_number(value, 8) for value in pen)})")
                path = path.transformed(pen.inverse())
            element.set("d", format_path_data(path, places))
        case Lettering():
            _write_text(parent, item)
        case Picture():
            element = _element(parent, "image", item.id, item.label)
            _set_frame(element, item)
            if item.fit:
                element.set("preserveAspectRatio", readable(item.fit))
            if item.smoothing not in ("", "auto"):
                element.set("image-rendering", readable(item.smoothing))
            if item.opacity < 1:
                element.set("opacity", _number(item.opacity))
            if not item.visible:
                element.set("visibility", "hidden")
            element.set(f"{{{XLINK}}}href", readable(item.reference))


def _set_frame(element: etree._Element, picture: Picture) -> None:
    """Where a picture lies: by numbers of its own where it stands upright and evenly scaled, else by a matrix."""
    xx, xy, yx, yy, x, y = picture.placement
    upright = xy == yx == 0 and xx == yy > 0
    scale = xx if upright else 1.0
    sides = [("width", picture.size[0] * scale), ("height", picture.size[1] * scale)]
    for name, value in [("x", x), ("y", y), *sides] if upright else sides:
        element.set(name, _number(value))
    if not upright:
        element.set("transform", f"matrix({' '.join(_number(value, 8) for value in picture.placement)})")


def _element(parent: etree._Element, tag: str, item_id: str, label: str | None) -> etree._Element:
    element = etree.SubElement(parent, f"{{{SVG}}}{tag}")
    element.set("id", readable(item_id))
    if label:
        etree.SubElement(element, f"{{{SVG}}}title").text = readable(label)
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
                element.set(name, readable(value))
        if look.dashes_mm:
            element.set("stroke-dasharray", " ".join(_number(value) for value in look.dashes_mm))
            if phase := dash_phase_mm(look):
                element.set("stroke-dashoffset", _number(phase))
        if look.stroke_below:
            element.set("paint-order", "stroke")
    for name, share in (
        ("opacity", look.opacity),
        ("fill-opacity", look.fill_opacity if look.fill else 1),
        ("stroke-opacity", look.stroke_opacity if look.stroke else 1),
    ):
        if share != 1:
            element.set(name, _number(share))


def _write_text(parent: etree._Element, item: Lettering) -> None:
    """Live text with all that it asks for, so that whoever sets it later finds it.

    Raises InputError where SVG has no words for it.
    """
    if reason := unsayable(item):
        raise InputError(called(item), say("can't be saved as text ({reason}); outline it first", reason=reason))
    for suffix, path in (("guide", item.guide.path if item.guide else None), ("inside", item.wrap_inside)):
        if path is not None:
            holder = etree.SubElement(etree.SubElement(parent, f"{{{SVG}}}defs"), f"{{{SVG}}}path")
            holder.set("id", f"{item.id}-{suffix}")
            holder.set("d", format_path_data(path, PLACES))
    element = _element(parent, "text", item.id, item.label)
    element.set("{http://www.w3.org/XML/1998/namespace}space", "preserve")
    said = {
        "transform": f"matrix({' '.join(_number(value, 8) for value in item.placement)})"
        if item.placement != Identity
        else "",
        "text-anchor": item.anchor if item.anchor != "start" else "",
        "direction": item.direction if item.direction != "ltr" else "",
        "writing-mode": "tb" if item.vertical else "",
        "text-orientation": "upright" if item.vertical and item.upright else "",
        "textLength": _number(item.length_mm) if item.length_mm is not None else "",
        "lengthAdjust": "spacingAndGlyphs" if item.stretch_glyphs else "",
        "inline-size": _number(item.frame.width_mm) if item.frame is not None else "",
        "shape-inside": f"url(#{item.id}-inside)" if item.wrap_inside is not None else "",
    }
    _set(element, said)
    within = element
    if item.guide is not None:
        within = etree.SubElement(element, f"{{{SVG}}}textPath")
        share, offset = item.guide.offset_share, item.guide.offset_mm
        within.set(f"{{{XLINK}}}href", f"#{item.id}-guide")
        offsets = f"{_number(share * 100)}%" if share else _number(offset) if offset else ""
        _set(
            within,
            {
                "startOffset": offsets,
                "side": "right" if item.guide.right_side else "",
                TAKEN_FROM: item.guide.source,
                "spacing": "exact" if item.guide.exact else "",
            },
        )
    turn = 0.0
    for run in item.runs:
        _write_run(etree.SubElement(within, f"{{{SVG}}}tspan"), run, turn)
        if run.each is not None and run.each.rotate:
            turn = run.each.rotate[-1]


def _write_run(part: etree._Element, run: Run, turn: float) -> None:
    """A run as a `tspan`; a turn that holds on from the run before is said again, as no other reader carries it on."""
    part.text = readable(run.text)
    places: dict[str, tuple[float, ...]] = {}
    for name, first in (("x", run.at[0]), ("y", run.at[1]), ("dx", run.shift[0] or None), ("dy", run.shift[1] or None)):
        values: tuple[float, ...] = getattr(run.each, name) if run.each else ()
        places[name] = values or ((first,) if first is not None else ())
    places["rotate"] = run.each.rotate if run.each and run.each.rotate else (turn,) if turn else ()
    _set(part, {name: " ".join(_number(value) for value in values) for name, values in places.items()})
    # CSS alone knows these, so they stand where every reader looks for CSS.
    css = {
        "font-feature-settings": ", ".join(f"'{tag}' {value}" for tag, value in run.features),
        "font-variation-settings": ", ".join(f"'{tag}' {value:g}" for tag, value in run.face.axes),
    }
    _set(
        part,
        {
            "dominant-baseline": run.line,
            "text-anchor": run.anchor,
            "font-family": ", ".join(f"'{name}'" if " " in name else name for name in run.face.families),
            "font-size": _number(run.size_mm),
            "font-weight": str(run.face.weight) if run.face.weight != 400 else "",
            "font-style": "italic" if run.face.italic else "",
            "font-stretch": run.face.stretch if run.face.stretch != "normal" else "",
            "style": "; ".join(f"{name}: {value}" for name, value in css.items() if value),
            "letter-spacing": _number(run.letter_spacing_mm) if run.letter_spacing_mm else "",
            "word-spacing": _number(run.word_spacing_mm) if run.word_spacing_mm else "",
            "baseline-shift": _number(run.baseline_mm) if run.baseline_mm else "",
            "text-decoration": run.decoration,
        },
    )
    _write_look(part, run.look)


def _set(element: etree._Element, said: dict[str, str]) -> None:
    """Sets the attributes that say something."""
    for name, value in said.items():
        if value:
            element.set(name, readable(value))


def _number(value: float, places: int = PLACES) -> str:
    text = f"{value:.{places}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
