"""Reading SVG: what the file draws, in mm, with every transform baked in. What isn't understood is noted."""

from __future__ import annotations

import math
from collections import Counter
from pathlib import Path as FilePath

from fontTools.misc.transform import Transform
from lxml import etree

from unkelt.errors import InputError, LengthError
from unkelt.formats.files import read_bytes
from unkelt.formats.svg.pathdata import LIMIT, parse_path_data
from unkelt.formats.svg.shapes import SHAPES, shape_path
from unkelt.formats.svg.style import INITIAL, Style, plain_colour, style_of
from unkelt.formats.svg.text import read_text
from unkelt.formats.svg.values import length, numbers, parse_transform
from unkelt.geometry.measure import bounds
from unkelt.geometry.path import Path, polygon
from unkelt.sheet.appearance import DEFAULT_STROKE_MM, Appearance
from unkelt.sheet.model import Group, Item, Outline, Picture, Sheet, Source
from unkelt.units import MM_PER_UNIT

SVG = "http://www.w3.org/2000/svg"
DEEPEST = 200
"""Groups nested deeper than this are no drawing."""

ARC_ERROR_MM = 0.002
"""How far the cubics of an arc may stray from it: a tenth of the standard chord tolerance."""

NOT_DRAWN = frozenset(["title", "desc", "metadata", "defs", "namedview", "script", "style", "symbol", "marker"])
"""Elements that draw nothing where they stand."""


def read_svg(path: FilePath) -> Sheet:
    """The sheet of an SVG file. Raises InputError when it is not one."""
    return parse_svg(read_bytes(path), str(path))


def parse_svg(data: bytes, name: str = "svg") -> Sheet:
    """The sheet of SVG bytes; `name` stands for the file in messages. Raises InputError."""
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, huge_tree=True, remove_comments=True
    )
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as problem:
        line, column = problem.position
        raise InputError(name, f"is not well-formed XML ({problem.msg})", f"line {line}, column {column}") from problem
    except ValueError as problem:
        raise InputError(name, f"is not XML: {problem}") from problem
    if local_name(root) != "svg":
        raise InputError(name, f"is not SVG: its outermost element is “{local_name(root)}”")
    return _Reader(root, name).sheet()


def local_name(element: etree._Element) -> str:
    """The tag without its namespace; "" for anything that isn't an SVG element."""
    if not isinstance(element.tag, str):
        return ""
    tag = etree.QName(element)
    return tag.localname if tag.namespace in (None, SVG) else ""


class _Reader:
    """One pass over one document; collects items, ids and notes."""

    def __init__(self, root: etree._Element, name: str) -> None:
        self.root, self.name = root, name
        self.notes: Counter[str] = Counter()
        self.taken: set[str] = {str(element.get("id")) for element in root.iter() if element.get("id")}
        self.used: set[str] = set()

    def sheet(self) -> Sheet:
        width, height, units = self._page()
        matrix = self._viewport(width, height)
        style = style_of(self.root, INITIAL)
        items = self._children(self.root, matrix, style, 1.0, 0)
        if etree.QName(self.root).namespace is None:
            self.notes["the file does not declare the SVG namespace"] += 1
        notes = tuple(f"{text} (× {count})" if count > 1 else text for text, count in self.notes.items())
        return Sheet((width, height), items, Source(self.name, units, notes))

    def _page(self) -> tuple[float, float, str]:
        """Page size in mm and the units as written."""
        box = self._view_box()
        sizes: list[float] = []
        written: list[str] = []
        for axis, name in enumerate(("width", "height")):
            text = self.root.get(name, "").strip()
            fallback = (box[2 + axis] if box else (300.0, 150.0)[axis]) * MM_PER_UNIT["px"]
            if not text or text.endswith("%") or text == "auto":
                sizes.append(fallback)
                written.append("none")
                continue
            try:
                value, unit = length(text)
            except LengthError as problem:
                raise InputError(self.name, str(problem), f"svg {name}") from problem
            if value <= 0 or value > LIMIT:
                raise InputError(self.name, f"“{text}” is no size for a page", f"svg {name}")
            sizes.append(value)
            written.append(unit or "px")
        if "none" in written:
            self.notes["the page has no physical size; 96 units to the inch are assumed"] += 1
        return sizes[0], sizes[1], written[0] if written[0] == written[1] else " × ".join(written)

    def _view_box(self) -> tuple[float, float, float, float] | None:
        text = self.root.get("viewBox")
        if text is None:
            return None
        values = numbers(text)
        if values is None or len(values) != 4 or values[2] <= 0 or values[3] <= 0:
            raise InputError(self.name, f"“{text}” is not a viewBox of four numbers with a size", "svg viewBox")
        return values[0], values[1], values[2], values[3]

    def _viewport(self, width: float, height: float) -> Transform:
        """User units to mm, by viewBox and preserveAspectRatio (SVG 1.1, section 7.8)."""
        box = self._view_box()
        if box is None:
            return Transform(MM_PER_UNIT["px"], 0, 0, MM_PER_UNIT["px"], 0, 0)
        x, y, w, h = box
        sx, sy = width / w, height / h
        words = self.root.get("preserveAspectRatio", "xMidYMid meet").replace("defer", "").split() or ["xMidYMid"]
        if words[0] == "none":
            return Transform(sx, 0, 0, sy, -x * sx, -y * sy)
        scale = max(sx, sy) if words[1:] == ["slice"] else min(sx, sy)
        shift = [
            {"Min": 0.0, "Mid": 0.5, "Max": 1.0}.get(words[0][at : at + 3], 0.5) * (outer - inner * scale)
            for at, outer, inner in ((1, width, w), (5, height, h))
        ]
        return Transform(scale, 0, 0, scale, shift[0] - x * scale, shift[1] - y * scale)

    def _children(
        self, parent: etree._Element, matrix: Transform, style: Style, opacity: float, depth: int
    ) -> tuple[Item, ...]:
        if depth > DEEPEST:
            raise InputError(self.name, f"groups are nested more than {DEEPEST} deep", f"line {parent.sourceline}")
        items: list[Item] = []
        for element in parent:
            if not local_name(element) or local_name(element) in NOT_DRAWN:
                if local_name(element) == "style" and (element.text or "").strip():
                    self.notes["a style sheet was not read; colours may differ from what was meant"] += 1
                continue
            try:
                item = self._item(element, matrix, style, opacity, depth)
            except LengthError as problem:
                self.notes[f"{self._where(element)} was left out: {problem}"] += 1
                continue
            if item is not None:
                items.append(item)
        return tuple(items)

    def _item(
        self, element: etree._Element, matrix: Transform, parent: Style, opacity: float, depth: int
    ) -> Item | None:
        tag = local_name(element)
        style = style_of(element, parent)
        if style["display"] == "none" or (style["visibility"] != "visible" and tag != "g"):
            self.notes[f"a hidden {tag} was left out"] += 1
            return None
        opacity *= _share(style["opacity"])
        if element.get("transform"):
            own = parse_transform(element.get("transform", ""))
            if own is None:
                self.notes[f"{self._where(element)} was left out: its transform can't be read"] += 1
                return None
            matrix = matrix.transform(own)
        for name in ("clip-path", "mask", "filter"):
            if (element.get(name) or style.get(name) or "none") != "none":
                self.notes[f"the {name} of {self._where(element)} was not applied"] += 1
        if tag in ("g", "a", "svg", "switch"):
            if tag != "g":
                self.notes[f"{tag} is read as a plain group"] += 1
            items = self._children(element, matrix, style, opacity, depth + 1)
            return Group(self._id(element, "group"), items, _label(element)) if items else None
        if tag == "text":
            text = read_text(
                element, self._id(element, "text"), matrix, style, lambda e, s: self._look(e, s, matrix, opacity)
            )
            if text is None:
                self.notes[f"{self._where(element)} is a text without letters"] += 1
            return text
        if tag == "image":
            return self._picture(element, matrix)
        if tag == "path" or tag in SHAPES:
            path = self._path(element, matrix)
            if path is None or not len(path):
                return None
            look = self._look(element, style, matrix, opacity)
            return Outline(self._id(element, tag), path, look, _label(element))
        self.notes[f"“{tag}” is not understood and was left out"] += 1
        return None

    def _path(self, element: etree._Element, matrix: Transform) -> Path | None:
        scale = math.sqrt(abs(matrix.xx * matrix.yy - matrix.xy * matrix.yx)) or 1.0
        if local_name(element) == "path":
            data = parse_path_data(element.get("d", ""), ARC_ERROR_MM / scale)
            if data.problem:
                self.notes[f"the path data of {self._where(element)} stops early: {data.problem}"] += 1
            path = data.path
        else:
            found = shape_path(local_name(element), dict(element.attrib), ARC_ERROR_MM / scale)
            if isinstance(found, str):
                self.notes[f"{self._where(element)} was left out: {found}"] += 1
                return None
            path = found
        path = path.transformed(matrix)
        box = bounds(path)
        if box and not max(map(abs, box)) <= LIMIT:
            self.notes[f"{self._where(element)} was left out: it lies beyond {LIMIT:g} mm"] += 1
            return None
        return path

    def _picture(self, element: etree._Element, matrix: Transform) -> Picture:
        x, y, width, height = (
            length(element.get(name, "0"))[0] / MM_PER_UNIT["px"] for name in ("x", "y", "width", "height")
        )
        frame = polygon((x, y), (x + width, y), (x + width, y + height), (x, y + height)).transformed(matrix)
        reference = element.get("href") or element.get("{http://www.w3.org/1999/xlink}href") or ""
        return Picture(self._id(element, "picture"), bounds(frame) or (0, 0, 0, 0), reference, _label(element))

    def _look(self, element: etree._Element, style: Style, matrix: Transform, opacity: float) -> Appearance:
        paints: dict[str, str | None] = {}
        for name in ("fill", "stroke"):
            try:
                paints[name] = plain_colour(style[name], style["color"])
            except ValueError:
                self.notes[
                    f"the {name} of {self._where(element)}, “{style[name]}”, is no plain colour; taken as black"
                ] += 1
                paints[name] = "#000000"
            if _share(style[f"{name}-opacity"]) == 0:
                paints[name] = None
        scale = math.sqrt(abs(matrix.xx * matrix.yy - matrix.xy * matrix.yx))
        width = length(style["stroke-width"])[0] / MM_PER_UNIT["px"] * scale
        if width == 0:
            paints["stroke"] = None
        return Appearance(
            fill=paints["fill"],
            stroke=paints["stroke"],
            stroke_width_mm=width if paints["stroke"] else DEFAULT_STROKE_MM,
            line_join=style["stroke-linejoin"],
            line_cap=style["stroke-linecap"],
            mitre_limit=float(numbers(style["stroke-miterlimit"], [4.0])[0]),
            opacity=opacity,
            even_odd=style["fill-rule"] == "evenodd",
        )

    def _id(self, element: etree._Element, stem: str) -> str:
        """The file's own id where it has one and it is the first to use it; else the stem and a number, in file order."""
        own = element.get("id")
        if own and own not in self.used:
            self.used.add(own)
            return own
        if own:
            self.notes[f"the id “{own}” is used more than once"] += 1
        number = 1
        while (name := f"{stem}-{number}") in self.taken or name in self.used:
            number += 1
        self.used.add(name)
        return name

    def _where(self, element: etree._Element) -> str:
        own = element.get("id")
        return f"“{own}”" if own else f"{local_name(element)} in line {element.sourceline}"


def _share(text: str) -> float:
    """An opacity from 0 to 1; a percentage is understood."""
    try:
        value = float(text[:-1]) / 100 if text.endswith("%") else float(text)
    except ValueError:
        return 1.0
    return min(1.0, max(0.0, value)) if math.isfinite(value) else 1.0


def _label(element: etree._Element) -> str | None:
    """A layer's or object's name, whatever program's attribute it stands in, or its title."""
    for name, value in element.attrib.items():
        if etree.QName(str(name)).localname == "label" and str(value).strip():
            return str(value).strip()
    title = next((child for child in element if local_name(child) == "title"), None)
    return (title.text or "").strip() or None if title is not None else None
