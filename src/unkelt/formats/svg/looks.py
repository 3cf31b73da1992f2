"""How elements are painted: fill, stroke, dashes and opacity from a style, as plain colours and mm."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from contextlib import suppress

from fontTools.misc.transform import Identity
from lxml import etree

from unkelt.formats.svg.page import PX
from unkelt.formats.svg.standing import Place, em_of, share
from unkelt.formats.svg.style import Style, is_newer_colour, plain_paint
from unkelt.formats.svg.text import HREF
from unkelt.formats.svg.values import length, local_name, numbers
from unkelt.messages import say
from unkelt.sheet.appearance import DEFAULT_STROKE_MM, Appearance, Paint, uneven_pen
from unkelt.sheet.model import Remark

_URL = re.compile(r"url\(\s*[\"']?([^\"')]*)[\"']?\s*\)\s*(.*)", re.DOTALL)


class Looks:
    """The appearances of one document; what can't be kept is added to its remarks. Elements styled alike share one."""

    def __init__(self, remarks: list[Remark], by_id: Callable[[], dict[str, etree._Element]]) -> None:
        self._remarks, self._by_id = remarks, by_id
        self._known: dict[tuple[int, int], tuple[Style, Place, Appearance]] = {}

    def of(self, element: etree._Element, style: Style, place: Place, items: tuple[str, ...]) -> Appearance:
        """The appearance of an element; what there is to remark on names the items."""
        key = (id(style), id(place))
        known = self._known.get(key)
        if known is not None:
            return known[2]
        remarks = len(self._remarks)
        look = self._made(element, style, place, items)
        if len(self._remarks) == remarks:  # a look with something to remark on is made, and remarked on, each time
            self._known[key] = (style, place, look)
        return look

    def _made(self, element: etree._Element, style: Style, place: Place, items: tuple[str, ...]) -> Appearance:
        paints = {name: self._paint(element, name, style, place, items) for name in ("fill", "stroke")}
        m = place.matrix
        scale = math.sqrt(abs(m.xx * m.yy - m.xy * m.yx))
        diagonal = math.hypot(*place.viewport) / math.sqrt(2)
        em = em_of(style) * PX
        if style["vector-effect"] == "non-scaling-stroke" and paints["stroke"]:
            scale, m = self._unscaled(element, items), Identity
        width = length(style["stroke-width"], em, diagonal * PX)[0] / PX * scale
        if width == 0:
            paints["stroke"] = None
        dashes, offset = self._dashes(style, scale, diagonal, em) if paints["stroke"] else ((), 0.0)
        fill, stroke = paints["fill"], paints["stroke"]
        return Appearance(
            fill=fill.colour if fill else None,
            stroke=stroke.colour if stroke else None,
            stroke_width_mm=width if stroke else DEFAULT_STROKE_MM,
            line_join=style["stroke-linejoin"],
            line_cap=style["stroke-linecap"],
            mitre_limit=numbers(style["stroke-miterlimit"], [4.0])[0],
            opacity=place.opacity,
            fill_opacity=fill.opacity if fill else 1.0,
            stroke_opacity=stroke.opacity if stroke else 1.0,
            stroke_below=bool(stroke) and _stroke_below(style["paint-order"]),
            even_odd=style["fill-rule"] == "evenodd",
            visible=place.shown and style["visibility"] == "visible",
            dashes_mm=dashes,
            dash_offset_mm=offset,
            pen=uneven_pen(*m[:4]) if stroke else None,
        )

    def _unscaled(self, element: etree._Element, items: tuple[str, ...]) -> float:
        """What a user unit of a stroke is in mm that keeps its width whatever scales its line (SVG 2, 8.13)."""
        self._remark(
            say(
                "the stroke of {where} keeps its width when its line is scaled: Unkelt takes 96 units to the inch",
                where=where(element),
            ),
            "content.effect",
            items,
        )
        return PX

    def _dashes(self, style: Style, scale: float, diagonal: float, em: float) -> tuple[tuple[float, ...], float]:
        """Dashes and where they start, in mm; a list with a negative length, or of nothing but zeros, is none."""
        if style["stroke-dasharray"] in ("none", ""):
            return (), 0.0
        words = style["stroke-dasharray"].replace(",", " ").split()
        dashes = tuple(length(word, em, diagonal * PX)[0] / PX * scale for word in words)
        offset = length(style["stroke-dashoffset"], em, diagonal * PX)[0] / PX * scale
        return (dashes, offset) if any(dashes) and min(dashes) >= 0 else ((), 0.0)

    def _paint(
        self, element: etree._Element, name: str, style: Style, place: Place, items: tuple[str, ...]
    ) -> Paint | None:
        """One plain paint, None for none. A gradient or pattern gives way to its fallback, or to its first colour."""
        text, opacity = style[name], share(style[f"{name}-opacity"])
        if opacity == 0:
            return None
        if match := _URL.match(text):
            reference, fallback = match[1], match[2].strip()
            target = self._by_id().get(reference.removeprefix("#"))
            if target is None:
                self._remark(
                    say(
                        "the {name} of {where} refers to “{reference}”, which leads nowhere",
                        name=name,
                        where=where(element),
                        reference=reference[:80],
                    ),
                    "content.reference",
                    items,
                )
                text = fallback or "none"
            else:
                kind = {"linearGradient": "gradient", "radialGradient": "gradient"}.get(
                    local_name(target), local_name(target)
                )
                text = fallback or self._first_colour(target, style["color"])
                self._remark(
                    say(
                        "the {name} of {where} is a {kind}: importing reads no more than one colour, here {text}",
                        name=name,
                        where=where(element),
                        kind=kind,
                        text=text,
                    ),
                    "content.effect",
                    items,
                )
        elif text in ("context-fill", "context-stroke") and not place.following:
            return None  # there is no context outside of `use` and markers (SVG 2, 13.2)
        try:
            paint = plain_paint(text, style["color"])
        except ValueError:
            self._remark(
                say(
                    "the {name} of {where}, “{text}”, is no plain colour; taken as black",
                    name=name,
                    where=where(element),
                    text=text[:40],
                ),
                "content.effect",
                items,
            )
            paint = Paint("#000000")
        if is_newer_colour(text) or (paint and paint.opacity < 1 and text.lower() == "currentcolor"):
            self._remark(newer_css(), "content.css", items)
        return paint and Paint(paint.colour, paint.opacity * opacity)

    def _first_colour(self, paint: etree._Element, current: str, hops: int = 8) -> str:
        """The first colour among the stops of a gradient, its own or those it borrows; black for anything else."""
        for stop in paint:
            if local_name(stop) == "stop":
                said = dict(part.split(":", 1) for part in stop.get("style", "").split(";") if ":" in part)
                found = {key.strip(): value.strip() for key, value in said.items()}.get("stop-color") or stop.get(
                    "stop-color", "#000000"
                )
                with suppress(ValueError):
                    if (shown := plain_paint(str(found), current)) is not None:  # a stop may be transparent
                        return shown.colour
        reference = next((paint.get(name, "") for name in HREF if paint.get(name)), "")
        other = self._by_id().get(reference.removeprefix("#"))
        return self._first_colour(other, current, hops - 1) if other is not None and hops else "#000000"

    def _remark(self, words: str, code: str, items: tuple[str, ...]) -> None:
        self._remarks.append(Remark(words, code, items))


def newer_css() -> str:
    """What is said of items that newer CSS has a say in, in one sentence for all of them."""
    return say("Unkelt follows CSS that many programs ignore: variables, transforms, geometry, newer colours")


def where(element: etree._Element) -> str:
    """An element for people: its id, or what it is and the line it stands in."""
    own = element.get("id")
    return (
        f"“{own}”"
        if own
        else say("{local_name} in line {sourceline}", local_name=local_name(element), sourceline=element.sourceline)
    )


def _stroke_below(order: str) -> bool:
    """Whether the fill is painted above the stroke (SVG 2, "paint-order": what isn't named follows in the usual
    order).
    """
    words = [word for word in order.split() if word in ("fill", "stroke")]
    return words[:1] == ["stroke"]
