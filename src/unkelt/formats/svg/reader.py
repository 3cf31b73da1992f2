"""What an SVG document draws, in mm, with every transform baked in. What isn't understood is remarked on.

Work is bounded: by depth, by how often `use` may copy, by coordinates.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from functools import cached_property

import numpy as np
import shapely
from fontTools.misc.transform import Identity, Transform
from lxml import etree

from unkelt.errors import InputError, LengthError
from unkelt.formats.edges import lies_within
from unkelt.formats.limits import FARTHEST
from unkelt.formats.svg.elements import INERT, NOT_DRAWN
from unkelt.formats.svg.looks import Looks, newer_css, where
from unkelt.formats.svg.page import PX, Page, fit_box, read_page, view_box
from unkelt.formats.svg.pathdata import parse_path_data, without_repeated_points
from unkelt.formats.svg.rasters import frame_of
from unkelt.formats.svg.shapes import SHAPES, css_geometry, shape_path
from unkelt.formats.svg.standing import EFFECTS, Place, em_of, share
from unkelt.formats.svg.style import GEOMETRY, INITIAL, NEWER, Cascade, Said
from unkelt.formats.svg.text import HREF, TextContext, read_text
from unkelt.formats.svg.transforms import own_transform, parse_transform
from unkelt.formats.svg.values import attributes_of, length, local_name
from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.geometry.path import Path, polygon
from unkelt.messages import say, say_count
from unkelt.sheet.model import (
    LAYER,
    LEFT_OUT,
    READS,
    Group,
    Item,
    Lettering,
    Outline,
    Picture,
    Reads,
    Remark,
    Scale,
    Sheet,
    Source,
)

DEEPEST = 200
"""Groups nested deeper than this are no drawing."""

MOST_COPIES = 100_000
"""More items than this made by `use` are an attack and not a drawing."""

ARC_ERROR_MM = 0.002
"""How far the cubics of an arc may stray from it: a tenth of the standard chord tolerance."""


class Reader:
    """One pass over one document; collects items, ids and remarks."""

    def __init__(self, root: etree._Element, name: str) -> None:
        self.root, self.name = root, name
        self.remarks: list[Remark] = []
        self.used: set[str] = set()
        self.counters: dict[str, int] = {}
        self.copies = 0
        self.places: dict[tuple[int, Said, tuple[str | None, str | None]], Place] = {}
        self.looks = Looks(self.remarks, lambda: self.by_id)
        self.cascade = Cascade(root, self.remarks)

    def sheet(self) -> Sheet:
        page = read_page(self.root.attrib, self.name)  # type: ignore[arg-type]
        place = self._root_place(page)
        items = self._children(self.root, place)
        if place.opacity < 1:
            self._remark_translucent(self.root.get("id", "svg"), items)
        if etree.QName(self.root).namespace is None:
            self.remark("the file does not declare the SVG namespace; stricter software refuses it")
        scale = Scale(page.sure, page.per_inch, page.evidence, page.uneven)
        source = Source(self.name, page.units, tuple(self.remarks), "SVG", scale)
        sheet = Sheet(page.size_mm, items, source)
        if all(page.told):
            return sheet
        boxes = [item.box for item in sheet.walk() if isinstance(item, Picture)]
        boxes += [text.place for text in sheet.letterings()]
        return replace(sheet, page_mm=page.around(join_boxes([*boxes, *filter(None, [sheet.drawn_box()])])))

    def _root_place(self, page: Page) -> Place:
        """Where all of the drawing stands; what the root says of the whole of it, too."""
        box = view_box(attributes_of(self.root))
        viewport = box[2:] if box is not None else (page.size_mm[0] / page.matrix.xx, page.size_mm[1] / page.matrix.yy)
        style = self.cascade.style_of(self.root, INITIAL)
        own = own_transform(self.root.get("transform"), self.root.get("transform-origin"), style)
        if own != Identity:
            self.remark(
                say("the outermost svg transforms the whole drawing: some programs ignore that")
                if own is not None
                else say("the transform of the outermost svg can't be read and was left out"),
                "content.effect" if own is not None else LEFT_OUT,
            )
        return Place(page.matrix, INITIAL, 1.0, viewport).within(own or Identity, style)

    @cached_property
    def by_id(self) -> dict[str, etree._Element]:
        """The first element of each id; gathered only for a file that refers to any."""
        found: dict[str, etree._Element] = {}
        for element in self.root.iter("*"):
            if own := element.get("id"):
                found.setdefault(own, element)
        return found

    def remark(
        self, words: str, code: str | None = None, items: tuple[str, ...] = (), *, outside: bool = False
    ) -> None:
        self.remarks.append(Remark(words, code, items, outside))

    # structure

    def _children(self, parent: etree._Element, place: Place) -> tuple[Item, ...]:
        return self._items(parent, place)

    def _items(self, elements: Iterable[etree._Element], place: Place) -> tuple[Item, ...]:
        if place.depth > DEEPEST:
            raise InputError(self.name, say("groups are nested more than {deepest} deep", deepest=DEEPEST))
        items: list[Item] = []
        for element in elements:
            tag = local_name(element)
            if not tag or tag in NOT_DRAWN:
                continue
            if tag in INERT:
                self.remark(INERT[tag], "content.effect")
                continue
            self.copies += bool(place.following)
            if self.copies > MOST_COPIES:
                raise InputError(
                    self.name, say("makes more than {most_copies:,} copies of its items", most_copies=MOST_COPIES)
                )
            try:
                item = self._item(element, tag, place)
            except LengthError as problem:
                self.remark(say("{where} was left out: {problem}", where=where(element), problem=problem), LEFT_OUT)
                continue
            if item is not None:
                items.append(item)
        return tuple(items)

    def _item(self, element: etree._Element, tag: str, above: Place) -> Item | None:
        attributes = attributes_of(element)
        moved = attributes.get("transform"), attributes.get("transform-origin")
        said = self.cascade.said(element, attributes)
        place = self.places.get((id(above), said, moved))
        if place is None:
            style = self.cascade.style(said, above.style)
            own = own_transform(*moved, style)
            if own is None:
                self.remark(say("{where} was left out: its transform can't be read", where=where(element)), LEFT_OUT)
                return None
            place = self.places[(id(above), said, moved)] = above.within(own, style)
        if NEWER in place.style and not GEOMETRY.isdisjoint(place.style):
            attributes |= css_geometry(tag, place.style)
        if tag in ("g", "a", "svg", "switch"):
            return self._group(element, tag, place)
        if tag == "use":
            return self._use(element, place)
        item = self._leaf(element, tag, place, attributes)
        if item is not None:
            if NEWER in place.style:
                self.remark(newer_css(), "content.css", (item.id,))
            if place.marked and tag in ("path", "line", "polyline", "polygon"):
                self._remark_effects(item, (*place.effects, "marker"))
            elif place.effects:
                self._remark_effects(item, place.effects)
        return item

    def _group(self, element: etree._Element, tag: str, place: Place) -> Group | None:
        name = self._id(element, "group", place)
        if tag == "svg":
            items = self._framed(element, name, place, {})
        elif tag == "switch":
            chosen = next((child for child in element if local_name(child) and _chosen(child)), None)
            items = self._items([chosen], place) if chosen is not None else ()
        else:
            items = self._children(element, place)
        if share(place.style["opacity"]) < 1:
            self._remark_translucent(name, items)
        is_layer = LAYER in element.get("class", "").split()
        return Group(name, items, _label(element), is_layer) if items else None

    def _remark_translucent(self, name: str, items: tuple[Item, ...]) -> None:
        """A translucent group is painted as a whole, and its parts as read are painted one by one."""
        paths = [outline.path for outline in Sheet((0.0, 0.0), items).outlines()]
        boxes = shapely.box(*np.array([box for path in paths if (box := bounds(path))]).reshape(-1, 4).T)
        first, second = shapely.STRtree(boxes).query(boxes, predicate="intersects")
        if (first != second).any():
            self.remark(
                say(
                    "the group “{name}” is translucent as a whole: its parts are taken as translucent one by one, "
                    "which shows where they overlap",
                    name=name,
                ),
                "content.effect",
                (name,),
            )

    def _framed(self, element: etree._Element, name: str, place: Place, given: dict[str, str]) -> tuple[Item, ...]:
        """What a nested `svg` or a `symbol` holds. It is shown no farther than its edge (SVG 1.1, 14.3.3), which
        importing drops.
        """
        framed = self._viewport(element, place, given)
        if framed is None:
            return ()
        inner, edge = framed
        items = self._children(element, inner)
        if place.style["overflow"] not in ("visible", "auto") and not lies_within(items, edge):
            self.remark(
                say("{where} is cut off at its edge, which was not applied", where=where(element)),
                "content.effect",
                (name,),
            )
        return items

    def _viewport(self, element: etree._Element, place: Place, given: dict[str, str]) -> tuple[Place, Box] | None:
        """The place inside a nested `svg` or a `symbol`, and the box around its edge in mm; None where it has no
        size.
        """

        em = em_of(place.style) * PX

        def get(name: str, axis: int, default: str) -> float:
            text = given.get(name) or element.get(name) or default
            return length("100%" if text == "auto" else text, em, place.viewport[axis] * PX)[0] / PX

        symbol = local_name(element) == "symbol"
        x, y = (0.0, 0.0) if symbol else (get("x", 0, "0"), get("y", 1, "0"))
        width, height = get("width", 0, "100%"), get("height", 1, "100%")
        if width <= 0 or height <= 0:
            self.remark(say("{where} has no size and draws nothing", where=where(element)))
            return None
        matrix = place.matrix.transform(Transform(1, 0, 0, 1, x, y))
        edge = bounds(polygon((0, 0), (width, 0), (width, height), (0, height)).transformed(matrix))
        assert edge is not None
        box = view_box(element.attrib)  # type: ignore[arg-type]
        if box is not None:
            matrix = matrix.transform(fit_box(box, (width, height), element.get("preserveAspectRatio", "")))
        return replace(place, matrix=matrix, viewport=box[2:] if box is not None else (width, height)), edge

    def _use(self, element: etree._Element, place: Place) -> Group | None:
        reference = next((element.get(name, "") for name in HREF if element.get(name)), "")
        target = self.by_id.get(reference[1:]) if reference.startswith("#") else None
        name = self._id(element, "use", place)
        if target is None:
            outside = bool(reference) and not reference.startswith("#")
            self.remark(
                say(
                    "{where} refers to “{reference}”, which leads {value}",
                    where=where(element),
                    reference=reference[:80],
                    value=say("outside the file") if outside else say("nowhere"),
                ),
                "content.reference",
                (name,),
                outside=outside,
            )
            return None
        if target in place.following or target in element.iterancestors():
            self.remark(
                say("{where} refers back to itself, and draws nothing", where=where(element)),
                "content.reference",
                (name,),
            )
            return None
        em = em_of(place.style) * PX
        x, y = (
            length(element.get(name, "0"), em, place.viewport[axis] * PX)[0] / PX
            for axis, name in enumerate(("x", "y"))
        )
        inner = replace(
            place,
            matrix=place.matrix.transform(Transform(1, 0, 0, 1, x, y)),
            following=(*place.following, target),
        )
        tag = local_name(target)
        if tag in ("symbol", "svg"):
            given = {side: element.get(side, "") for side in ("width", "height") if element.get(side)}
            style = self.cascade.style_of(target, inner.style)
            items = self._framed(target, name, replace(inner, style=style, depth=inner.depth + 1), given)
        else:
            items = self._items([target], inner) if tag not in NOT_DRAWN else ()
        return Group(name, items, _label(element)) if items else None

    # what is drawn

    def _leaf(self, element: etree._Element, tag: str, place: Place, attributes: dict[str, str]) -> Item | None:
        if tag == "text":
            return self._text(element, place)
        if tag == "image":
            return self._picture(element, place, attributes)
        if tag != "path" and tag not in SHAPES:
            self.remark(say("“{tag}” is not understood and was left out", tag=tag), LEFT_OUT)
            return None
        path = self._path(element, tag, place, attributes)
        if path is None or not len(path):
            return None
        name = self._id(element, tag, place)
        look = self.looks.of(element, place.style, place, (name,))
        if tag == "path" and look.stroke and look.line_cap != "butt":
            path = self._without_moves(element, path, attributes, place)
            if not len(path):
                return None
        if look.pen:
            self.remark(
                say(
                    "the stroke of {where} is skewed or unevenly scaled: importing takes one width for all of it",
                    where=where(element),
                ),
                None,
                (name,),
            )
        return Outline(name, path, look, _label(element, attributes), reads=_reads(attributes.get("class")))

    def _remark_effects(self, item: Item, effects: tuple[str, ...]) -> None:
        for effect in dict.fromkeys(effects):
            what = EFFECTS.get(effect, f"a {effect}")
            self.remark(
                say(
                    "“{id}” has {what}: importing drops it, so that what it hid or added is not as shown",
                    id=item.id,
                    what=what,
                ),
                "content.effect",
                (item.id,),
            )

    def _text(self, element: etree._Element, place: Place) -> Lettering | None:
        name = self._id(element, "text", place)
        context = TextContext(
            self.cascade.style_of,
            lambda e, s: self.looks.of(e, s, place, (name,)),
            self._path_by_id,
            lambda words, code: self.remark(words, code, (name,)),
            place.viewport,
        )
        text = read_text(element, name, place.matrix, place.style, context)
        if text is None:
            self.remark(say("{where} is a text without letters", where=where(element)), "text.empty")
        return text

    def _path_by_id(self, item_id: str) -> Path | None:
        element = self.by_id.get(item_id)
        if element is None or (local_name(element) != "path" and local_name(element) not in SHAPES):
            return None
        own = parse_transform(element.get("transform", "")) or Identity
        return self._path(
            element, local_name(element), Place(own, INITIAL, 1.0, (100.0, 100.0)), attributes_of(element)
        )

    def _path(self, element: etree._Element, tag: str, place: Place, attributes: dict[str, str]) -> Path | None:
        arc_error = ARC_ERROR_MM / place.scale
        if tag == "path":
            data = parse_path_data(attributes.get("d", ""), arc_error)
            if data.problem:
                self.remark(
                    say("the path data of {where} stops early: {problem}", where=where(element), problem=data.problem),
                    LEFT_OUT,
                )
            path, left = without_repeated_points(data.path)
            if left:
                self.remark(
                    say(
                        "{left} lone points of {where} lie on others of it and were left out",
                        left=left,
                        where=where(element),
                    )
                )
            path = path.transformed(place.matrix)
            # The handles' reach is quicker told than the curve's, and enough.
            found: Path | str = (
                path
                if place.tame or path.within(FARTHEST)
                else say("it lies beyond {farthest:g} mm", farthest=FARTHEST)
            )
        else:
            found = shape_path(tag, attributes, arc_error, place.viewport, place.matrix, em_of(place.style))
        if isinstance(found, str):
            self.remark(say("{where} was left out: {found}", where=where(element), found=found), LEFT_OUT)
            return None
        return found

    def _without_moves(self, element: etree._Element, path: Path, attributes: dict[str, str], place: Place) -> Path:
        """The path without moves that nothing is drawn from: a line of no length, as which they are kept elsewhere,
        would be painted as a dot by a pen with caps (SVG 1.1, 11.4).
        """
        if not ((path.counts == 1) & ~path.closed).any():
            return path
        drawn = parse_path_data(attributes.get("d", ""), ARC_ERROR_MM / place.scale, points=False).path
        drawn = without_repeated_points(drawn)[0].transformed(place.matrix)
        if len(drawn) < len(path):
            count = len(path) - len(drawn)
            self.remark(
                say_count(
                    "{count} lone point of {where} draws nothing and was left out",
                    "{count} lone points of {where} draw nothing and were left out",
                    count,
                    where=where(element),
                )
            )
        return drawn if len(drawn) < len(path) else path

    def _picture(self, element: etree._Element, place: Place, attributes: dict[str, str]) -> Picture | None:
        em = em_of(place.style) * PX
        x, y, *sides = (
            None if text in ("", "auto") else length(text, em, place.viewport[axis % 2] * PX)[0] / PX
            for axis, text in enumerate(attributes.get(name, "").strip() for name in ("x", "y", "width", "height"))
        )
        reference = next((element.get(name, "") for name in HREF if element.get(name)), "")
        name = self._id(element, "picture", place)
        if reference and not reference.startswith("data:"):
            self.remark(
                say(
                    "the picture “{name}” lies outside the file, at “{reference}”", name=name, reference=reference[:80]
                ),
                "content.reference",
                (name,),
                outside=True,
            )
        size = frame_of(sides[0], sides[1], reference)
        if size is None:
            self.remark(
                say("the picture “{name}” doesn't say how large it is, and was left out", name=name), LEFT_OUT, (name,)
            )
            return None
        style = place.style
        return Picture(
            name,
            size,
            place.matrix.translate(x or 0.0, y or 0.0),
            reference,
            _label(element),
            opacity=place.opacity,
            visible=place.shown and style["visibility"] == "visible",
            fit=attributes.get("preserveAspectRatio", ""),
            smoothing=style["image-rendering"],
        )

    # names

    def _id(self, element: etree._Element, stem: str, place: Place) -> str:
        """The file's own id where it has one and it is the first to use it; else the stem and a number, in file
        order.
        """
        own = element.get("id")
        if own and own not in self.used and not place.following:
            self.used.add(own)
            return own
        if own and not place.following:
            self.remark(say("the id “{own}” is used more than once", own=own))
        number = self.counters.get(stem, 0) + 1
        while (name := f"{stem}-{number}") in self.by_id or name in self.used:
            number += 1
        self.counters[stem] = number
        self.used.add(name)
        return name


def _chosen(element: etree._Element) -> bool:
    """Whether `switch` may take this child: no extension asked for, and a language that is English or not named."""
    languages = element.get("systemLanguage")
    spoken = languages is None or any(word.strip().lower().startswith("en") for word in languages.split(","))
    return element.get("requiredExtensions") in (None,) and spoken


def _reads(said: str | None) -> Reads:
    """Which way round an outline reads: forwards, unless a file of ours says otherwise."""
    words = (said or "").split()
    return next((reads for reads, name in READS.items() if name in words), Reads.FORWARDS)


def _label(element: etree._Element, attributes: dict[str, str] | None = None) -> str | None:
    """A layer's or object's name, whatever program's attribute it stands in, or its title."""
    attributes = attributes_of(element) if attributes is None else attributes
    for name in [name for name in attributes if name[-5:] == "label"]:
        if etree.QName(name).localname == "label" and (said := attributes[name].strip()):
            return said
    title = next((child for child in element if local_name(child) == "title"), None) if len(element) else None
    return (title.text or "").strip() or None if title is not None else None
