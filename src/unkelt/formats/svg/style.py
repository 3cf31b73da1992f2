"""What the properties of an element are: sheets, `style=`, attributes, in the cascade's order, inherited as SVG
says.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from functools import lru_cache
from types import MappingProxyType
from typing import Any

import cssselect2
import tinycss2
from lxml import etree
from tinycss2.color4 import parse_color

from unkelt.errors import LengthError
from unkelt.formats.svg.sayable import KEYWORDS, can_say
from unkelt.formats.svg.values import attributes_of
from unkelt.messages import say
from unkelt.sheet.appearance import Paint
from unkelt.sheet.model import Remark
from unkelt.units import MM_PER_UNIT, split_length

Token = Any
"""Something of tinycss2 or cssselect2, which have no types."""

INITIAL: Mapping[str, str] = MappingProxyType(
    {
        "clip-rule": "nonzero",
        "color": "#000000",
        "direction": "ltr",
        "dominant-baseline": "auto",
        "fill": "#000000",
        "fill-opacity": "1",
        "fill-rule": "nonzero",
        "font-family": "",
        "font-feature-settings": "normal",
        "font-kerning": "auto",
        "font-size": "16px",
        "font-size-adjust": "none",
        "font-stretch": "normal",
        "font-style": "normal",
        "font-variant": "normal",
        "font-variant-alternates": "normal",
        "font-variant-caps": "normal",
        "font-variant-east-asian": "normal",
        "font-variant-ligatures": "normal",
        "font-variant-numeric": "normal",
        "font-variant-position": "normal",
        "font-variation-settings": "normal",
        "font-weight": "400",
        "image-rendering": "auto",
        "inline-size": "auto",
        "letter-spacing": "normal",
        "marker-end": "none",
        "marker-mid": "none",
        "marker-start": "none",
        "paint-order": "normal",
        "shape-inside": "auto",
        "stroke": "none",
        "stroke-dasharray": "none",
        "stroke-dashoffset": "0",
        "stroke-linecap": "butt",
        "stroke-linejoin": "miter",
        "stroke-miterlimit": "4",
        "stroke-opacity": "1",
        "stroke-width": "1",
        "text-anchor": "start",
        "text-orientation": "mixed",
        "text-rendering": "auto",
        "text-transform": "none",
        "visibility": "visible",
        "white-space": "normal",
        "word-spacing": "normal",
        "writing-mode": "horizontal-tb",
    }
)
"""Inherited properties with their initial values (SVG 1.1, appendix N; font-size "medium" is 16px by convention)."""

NOT_INHERITED: Mapping[str, str] = MappingProxyType(
    {
        "alignment-baseline": "baseline",
        "baseline-shift": "0",
        "clip-path": "none",
        "display": "inline",
        "filter": "none",
        "mask": "none",
        "mix-blend-mode": "normal",
        "opacity": "1",
        "overflow": "",  # by default hidden where it makes a difference
        "text-decoration": "none",
        "unicode-bidi": "normal",
        "vector-effect": "none",
    }
)

KNOWN = frozenset([*INITIAL, *NOT_INHERITED])
GEOMETRY = frozenset(["cx", "cy", "d", "height", "r", "rx", "ry", "width", "x", "y"])
"""Attributes that CSS may set, too (SVG 2, 4.2)."""

FROM_CSS = frozenset([*GEOMETRY, "transform", "transform-origin"])
"""What a style has only where CSS says it: as attributes, elements read these themselves."""
NEWER = "newer"
"""What a style has, too, where it or what it stands in says something by CSS that many programs don't follow."""

UNSET = ("unset", "revert", "revert-layer")
"""Where no sheet of the program's own says anything, all of these are the same (CSS Cascade 5, 7.3)."""

COMPUTED = frozenset(["letter-spacing", "stroke-dasharray", "stroke-dashoffset", "stroke-width", "word-spacing"])
"""Lengths that are inherited: 1em of them is that of the element that says them (CSS Values 4, 6.1)."""

_EM = re.compile(r"([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)(em|ex)\b", re.ASCII)

MOST_VARIABLES = 100
"""A value that takes more variables refers to itself, or is an attack."""

_SAYING = frozenset([*KNOWN, "font", "marker", "style"])
Style = Mapping[str, str]
Said = tuple[tuple[tuple[str, str], ...], tuple[int, ...]]
"""Attributes that say something, in the element's order, and the numbers of the sheets' rules, in the cascade's."""
_Rule = tuple[bool, dict[str, str]]

_FONT_SIZES = {
    "xx-small": "9px",
    "x-small": "10px",
    "small": "13px",
    "medium": "16px",
    "large": "18px",
    "x-large": "24px",
    "xx-large": "32px",
    "smaller": "0.8333em",
    "larger": "1.2em",
}
_WEIGHTS = {"normal": "400", "bold": "700"}


class Cascade:
    """All style sheets of a document; `style_of` gives an element's properties.

    What is said that isn't fetched, followed or understood is added to `remarks`.
    """

    def __init__(self, root: etree._Element, remarks: list[Remark]) -> None:
        self._remarks = remarks
        self._matcher = cssselect2.Matcher()
        self._sheet_rules: list[tuple[_Rule, _Rule]] = []
        self._wrappers: dict[etree._Element, cssselect2.ElementWrapper] = {}
        self._memo: dict[tuple[int, Said], tuple[Style, Style]] = {}
        texts = [
            element.text or ""
            for element in root.iter("{*}style")
            if element.get("type", "text/css") in ("", "text/css") and _meant_for_paper(element.get("media", "all"))
        ]
        rules = [rule for text in texts for rule in self._rules(text)]
        for selectors, declarations in rules:
            for selector in selectors:
                self._matcher.add_selector(selector, len(self._sheet_rules))
            self._sheet_rules.append(declarations)
        if rules:
            wrapper = cssselect2.ElementWrapper.from_xml_root(root)
            self._wrappers = {each.etree_element: each for each in wrapper.iter_subtree()}

    def _rules(self, text: str) -> Iterator[tuple[list[Token], tuple[_Rule, _Rule]]]:
        for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
            yield from self._rule(rule)

    def _rule(self, rule: Token) -> Iterator[tuple[list[Token], tuple[_Rule, _Rule]]]:
        if rule.type == "qualified-rule":
            try:
                selectors = cssselect2.compile_selector_list(rule.prelude)
            except cssselect2.SelectorError:
                selector = tinycss2.serialize(rule.prelude).strip()
                self._remarks.append(
                    Remark(say("a style rule for “{selector}” can't be understood", selector=selector))
                )
                return
            normal, important = self._declarations(tinycss2.parse_blocks_contents(rule.content))
            yield selectors, ((False, normal), (True, important))
        elif rule.type == "at-rule" and rule.lower_at_keyword == "media" and rule.content is not None:
            if _meant_for_paper(tinycss2.serialize(rule.prelude)):
                for inner in tinycss2.parse_rule_list(rule.content, skip_comments=True, skip_whitespace=True):
                    yield from self._rule(inner)
        elif rule.type == "at-rule" and rule.lower_at_keyword in ("import", "font-face"):
            words = f"@{rule.lower_at_keyword} in a style sheet is not followed: nothing is ever fetched"
            self._remarks.append(Remark(words, "content.reference"))
        elif rule.type == "error":
            self._remarks.append(Remark("a part of a style sheet can't be understood"))

    def style_of(self, element: etree._Element, parent: Style) -> Style:
        """Attributes, then sheet rules by specificity and order, then `style=`, then what is `!important`."""
        return self.style(self.said(element, attributes_of(element)), parent)

    def said(self, element: etree._Element, attributes: dict[str, str]) -> Said:
        """All that an element's own style depends on: its attributes that say something, and the rules that match
        it.
        """
        saying = tuple([item for item in attributes.items() if item[0] in _SAYING])
        wrapper = self._wrappers.get(element) if self._wrappers else None
        if wrapper is None:
            return saying, ()
        return saying, tuple([rule for *_, rule in sorted(self._matcher.match(wrapper), key=_order)])

    def style(self, said: Said, parent: Style) -> Style:
        """The style of whatever says this under this parent; elements that say the same share one answer."""
        known = self._memo.get((id(parent), said))
        if known is None:
            # The parent is kept with the answer, so that its id stays its own.
            known = self._memo[(id(parent), said)] = (parent, self._computed(said, parent))
        return known[1]

    def _computed(self, own_said: Said, parent: Style) -> Style:
        said: dict[str, str] = {}
        own = None
        for name, value in own_said[0]:
            if name in KNOWN or name == "font":
                self._put(said, name, value.strip())
            elif name == "style":
                own = value
        inline, inline_important = self._declarations(tinycss2.parse_blocks_contents(own)) if own else ({}, {})
        matched = [self._sheet_rules[rule] for rule in own_said[1]]
        layers = [normal for (_, normal), _ in matched] + [inline]
        layers += [important for _, (_, important) in matched] + [inline_important]
        for layer in layers:
            said.update(layer)
        result = {name: parent.get(name, value) for name, value in INITIAL.items()} | dict(NOT_INHERITED)
        result |= {name: value for name, value in (*parent.items(), *said.items()) if name.startswith("--")}
        if NEWER in parent or any(name in FROM_CSS or "var(" in value for name, value in said.items()):
            result[NEWER] = "yes"
        for name, value in said.items():
            if "var(" in value:
                value = _with_variables(value, result)
                value = value if self._can_say(name, value) else "unset"
            if name in FROM_CSS:
                result[name] = value
            if name not in KNOWN or not value:
                continue
            initial = INITIAL[name] if name in INITIAL else NOT_INHERITED[name]
            if value == "inherit" or (value in UNSET and name in INITIAL):
                result[name] = parent.get(name, initial)
            else:
                result[name] = initial if value in ("initial", *UNSET) else value
        result["font-size"] = _font_size(result["font-size"], parent.get("font-size", "16px"), "font-size" in said)
        for name in COMPUTED & said.keys():
            result[name] = _EM.sub(lambda length: _in_px(length, result["font-size"]), result[name])
        return result

    def _declarations(self, parsed: list[Token]) -> tuple[dict[str, str], dict[str, str]]:
        """Normal and important declarations, shorthands taken apart."""
        normal: dict[str, str] = {}
        important: dict[str, str] = {}
        for declaration in parsed:
            if declaration.type == "declaration":
                self._put(
                    important if declaration.important else normal,
                    declaration.name if declaration.name.startswith("--") else declaration.lower_name,
                    tinycss2.serialize(declaration.value).strip(),
                )
        return normal, important

    def _put(self, said: dict[str, str], name: str, value: str) -> None:
        if name == "font":
            said.update(_font_shorthand(value))
        elif name == "marker":
            said.update({f"marker-{where}": value for where in ("start", "mid", "end")})
        elif (name in KNOWN or name in FROM_CSS or name.startswith("--")) and self._can_say(name, value):
            said[name] = value.lower() if name in KEYWORDS else value

    def _can_say(self, name: str, value: str) -> bool:
        if can_say(name, value):
            return True
        if value:  # an empty one says nothing to anybody
            words = say("“{name}: {value}” can't be read and was passed over", name=name, value=value[:40])
            self._remarks.append(Remark(words, "content.css"))
        return False


def _order(match: tuple[Token, ...]) -> tuple[Token, Token]:
    return match[0], match[1]


def _meant_for_paper(media: str) -> bool:
    """Whether a media query asks for no more than a screen or paper."""
    return any(word.strip().lower() in ("", "all", "screen", "print") for word in media.split(","))


def _with_variables(text: str, style: Style) -> str:
    """A value with its `var()` filled in, empty where one has neither value nor fallback (CSS Custom Properties 1)."""

    left = MOST_VARIABLES

    def filled(tokens: list[Token]) -> list[Token]:
        nonlocal left
        found: list[Token] = []
        for token in tokens:
            if token.type == "function" and token.lower_name == "var":
                name, _, fallback = tinycss2.serialize(token.arguments).strip().partition(",")
                value = style.get(name.strip(), fallback).strip()
                left -= 1
                if not value or left < 0:
                    raise LookupError(name)
                found += filled(tinycss2.parse_component_value_list(value))
                continue
            if token.type == "function":
                token.arguments = filled(token.arguments)
            found.append(token)
        return found

    try:
        return tinycss2.serialize(filled(tinycss2.parse_component_value_list(text))).strip()
    except LookupError:
        return ""


def _font_shorthand(text: str) -> dict[str, str]:
    """`font: [style variant weight stretch] size[/line-height] family` (CSS Fonts); {} where it isn't one."""
    result = {"font-style": "normal", "font-variant": "normal", "font-weight": "400", "font-stretch": "normal"}
    words = text.split()
    for index, word in enumerate(words):
        low = word.lower()
        if low in ("italic", "oblique"):
            result["font-style"] = low
        elif low in ("bold", "bolder", "lighter") or low.isdigit():
            result["font-weight"] = low
        elif low == "small-caps":
            result["font-variant"] = low
        elif low.endswith(("condensed", "expanded")):
            result["font-stretch"] = low
        elif low != "normal":
            family = " ".join(words[index + 1 :]).lstrip("/ ")
            return result | {"font-size": word.split("/")[0], "font-family": family} if family else {}
    return {}


def _font_size(text: str, parent: str, said: bool) -> str:
    """In px where it can be told, so that what inherits it inherits a length and not a share."""
    if not said:
        return parent
    text = _FONT_SIZES.get(text.lower(), text)
    base = float(parent[:-2]) if parent.endswith("px") else 16.0
    for unit, factor in (("em", base), ("ex", base / 2), ("%", base / 100)):
        number = text.removesuffix(unit)
        if number != text and not number.endswith("r"):
            try:
                return f"{float(number) * factor:.10g}px"
            except ValueError:
                return parent
    try:
        value, unit = split_length(text)
    except LengthError:
        return text
    return f"{value * MM_PER_UNIT[unit or 'px'] / MM_PER_UNIT['px']:.10g}px" if unit in ("", *MM_PER_UNIT) else text


def _in_px(length: re.Match[str], size: str) -> str:
    """A length in em or ex in px, where the size of letters can be told; else as it is."""
    if not size.endswith("px"):
        return length[0]
    return f"{float(length[1]) * float(size[:-2]) * (0.5 if length[2] == 'ex' else 1.0):.10g}px"


def font_weight(text: str, inherited: int = 400) -> int:
    """A weight from 1 to 1000 (CSS Fonts 4, "Relative weights")."""
    low = text.lower()
    if low == "bolder":
        return 400 if inherited < 350 else 700 if inherited < 550 else 900
    if low == "lighter":
        return 100 if inherited < 550 else 400 if inherited < 750 else 700
    try:
        return min(1000, max(1, round(float(_WEIGHTS.get(low, low)))))
    except (ValueError, OverflowError):
        return 400


@lru_cache(maxsize=4096)
def is_newer_colour(paint: str) -> bool:
    """Whether a colour is said in a way that came after SVG 1.1 (CSS Color 4), which many programs don't follow."""
    name, _, arguments = paint.partition("(")
    return bool(arguments) and (name.lower() not in ("rgb", "rgba") or "," not in arguments)


def plain_paint(paint: str, current: str) -> Paint | None:
    """A paint in one plain colour, as opaque as the colour itself says (CSS Color 4: `#rrggbbaa`, `rgb(… / …)`); None
    for no paint. Raises ValueError for anything that isn't one plain colour.
    """
    if paint in ("none", "transparent"):
        return None
    # SVG 1.1 allows a colour profile after the colour; the plain colour before it is what others read.
    colour = parse_color(paint.split(" icc-color")[0])
    if colour == "currentcolor":
        colour = parse_color(current)
    if colour is None or isinstance(colour, str):
        raise ValueError(paint)
    if colour.alpha == 0:
        return None
    try:
        in_srgb = colour.to("srgb")
    except NotImplementedError as problem:
        raise ValueError(paint) from problem
    red, green, blue = (round(255 * max(0.0, min(1.0, value))) for value in in_srgb[:3])
    return Paint(f"#{red:02x}{green:02x}{blue:02x}", min(1.0, float(colour.alpha)))
