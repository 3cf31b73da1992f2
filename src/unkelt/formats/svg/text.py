"""A `text` element as lettering: runs with face, size, spacing and positions. Setting it is another room's work.

What the file asks for is kept; what can't be set yet is named besides, so that nobody sets the text without it.
"""

from __future__ import annotations

import math
import re
import unicodedata
from collections.abc import Callable
from dataclasses import dataclass, replace

from fontTools.misc.transform import Transform
from lxml import etree

from unkelt.errors import LengthError
from unkelt.formats.svg.style import Style, font_weight
from unkelt.formats.svg.values import TAKEN_FROM, length, local_name, numbers
from unkelt.geometry.path import Path
from unkelt.messages import say
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import DECORATIONS, LEFT_OUT, Each, FaceQuery, Frame, Guide, Lettering, Run
from unkelt.units import MM_PER_UNIT

PX = MM_PER_UNIT["px"]
XML_SPACE = "{http://www.w3.org/XML/1998/namespace}space"
_SHAPE = re.compile(r"url\(\s*[\"']?#([^\"')]+)")
HREF = ("href", "{http://www.w3.org/1999/xlink}href")


_CASES: dict[str, Callable[[str], str]] = {
    "uppercase": str.upper,
    "lowercase": str.lower,
    "capitalize": lambda text: re.sub(r"(?<![\w'’])\w", lambda letter: letter[0].upper(), text),
}
"""What CSS makes of letters (CSS Text 3, 2.1)."""

_VARIANTS: dict[str, tuple[tuple[str, int], ...]] = {
    "none": (("liga", 0), ("clig", 0), ("calt", 0)),
    "common-ligatures": (("liga", 1), ("clig", 1)),
    "no-common-ligatures": (("liga", 0), ("clig", 0)),
    "discretionary-ligatures": (("dlig", 1),),
    "no-discretionary-ligatures": (("dlig", 0),),
    "historical-ligatures": (("hlig", 1),),
    "no-historical-ligatures": (("hlig", 0),),
    "contextual": (("calt", 1),),
    "no-contextual": (("calt", 0),),
    "lining-nums": (("lnum", 1),),
    "oldstyle-nums": (("onum", 1),),
    "proportional-nums": (("pnum", 1),),
    "tabular-nums": (("tnum", 1),),
    "diagonal-fractions": (("frac", 1),),
    "stacked-fractions": (("afrc", 1),),
    "ordinal": (("ordn", 1),),
    "slashed-zero": (("zero", 1),),
}
"""The features that words of CSS switch (CSS Fonts 4, 6.4 and 6.7)."""


@dataclass(frozen=True, slots=True)
class TextContext:
    """What reading text asks of the reader of the document."""

    style_of: Callable[[etree._Element, Style], Style]
    look_of: Callable[[etree._Element, Style], Appearance]
    path_of: Callable[[str], Path | None]  # the path of an id, in user units
    remark: Callable[[str, str | None], None]  # words, and the code of the finding that they become
    viewport: tuple[float, float]  # what percentages are of, in user units


def read_text(
    element: etree._Element, item_id: str, matrix: Transform, style: Style, context: TextContext
) -> Lettering | None:
    """The lettering of a text element, or None where it holds no letters."""
    scale = math.sqrt(abs(matrix.xx * matrix.yy - matrix.xy * matrix.yx)) or 1.0
    placement = Transform(
        matrix.xx / scale, matrix.xy / scale, matrix.yx / scale, matrix.yy / scale, matrix.dx, matrix.dy
    )
    reader = _Runs(scale, context)
    reader.element(element, style, ())
    runs = _placed(_collapsed(reader.runs))
    if not runs:
        return None
    if sum(run.at[1] is not None for run in runs) > 1 and (
        reader.wrap_mm is not None or "shape-inside" in reader.beyond
    ):
        # Whoever wrapped it has said where each line begins, for readers that don't wrap.
        reader.beyond = [name for name in reader.beyond if name != "shape-inside"]
        reader.wrap_mm = reader.wrap_inside = None
        context.remark("a wrapped text is set line by line, at the places that the file gives for its lines", None)
    if _mixed("".join(run.text for run in runs)):
        reader.beyond.append("letters of both writing directions")
    anchor = style["text-anchor"] if style["text-anchor"] in ("start", "middle", "end") else "start"
    return Lettering(
        item_id,
        tuple(runs),
        anchor,
        placement,
        beyond=tuple(dict.fromkeys(reader.beyond)),
        guide=reader.guide,
        length_mm=reader.length_mm,
        stretch_glyphs=reader.stretch_glyphs,
        direction="rtl" if style["direction"] == "rtl" else "ltr",
        vertical=style["writing-mode"].startswith(("tb", "vertical")),
        upright=style["text-orientation"] == "upright",
        frame=Frame(reader.wrap_mm) if reader.wrap_mm is not None else None,
        wrap_inside=reader.wrap_inside,
    )


def _mixed(text: str) -> bool:
    """Whether it has letters that run to the right and others that run to the left."""
    kinds = {unicodedata.bidirectional(letter) for letter in text}
    return "L" in kinds and bool(kinds & {"R", "AL"})


@dataclass(slots=True)
class _Lists:
    """What an element says of its characters one by one, and how many of them have passed."""

    x: tuple[float, ...]
    y: tuple[float, ...]
    dx: tuple[float, ...]
    dy: tuple[float, ...]
    rotate: tuple[float, ...]
    passed: int = 0


@dataclass(frozen=True, slots=True)
class _Found:
    """A run as it stands in the file: within which elements, the outermost first, and whether its spaces are kept."""

    run: Run
    within: tuple[_Lists, ...]
    preserve: bool


class _Runs:
    """Collects the runs of a text element in document order, with what can't be set yet."""

    def __init__(self, scale: float, context: TextContext) -> None:
        self.scale, self.context = scale, context
        self.runs: list[_Found] = []
        self.beyond: list[str] = []
        self.guide: Guide | None = None
        self.length_mm: float | None = None
        self.wrap_mm: float | None = None
        self.wrap_inside: Path | None = None
        self.stretch_glyphs = False
        self.anchor = "start"
        self._depth = 0

    def element(
        self,
        element: etree._Element,
        style: Style,
        within: tuple[_Lists, ...],
        space: str = "default",
        decorated: str = "",
        raised_mm: float = 0.0,
    ) -> None:
        """A `text`, `tspan` or `textPath`, its own letters and its parts', within what decorates and raises them."""
        self._depth += 1
        space = element.get(XML_SPACE, space)
        preserve = space == "preserve" or style["white-space"] in ("pre", "pre-wrap", "break-spaces")
        words = [*decorated.split(), *style["text-decoration"].lower().split()]
        decorated = " ".join(dict.fromkeys(word for word in words if word != "none"))
        if not set(decorated.split()) <= {*DECORATIONS, "solid"}:
            self.beyond.append("text-decoration")
        if self._depth == 1:
            self.anchor = style["text-anchor"]
        size = self._mm(style["font-size"], 16 * self.scale)
        look = self.context.look_of(element, style)
        within = (*within, self._lists(element, size))
        self._whole(element, style, size)
        if self._depth > 1:  # it is a property of parts of a text (SVG 1.1, 10.9.2)
            raised_mm += self._raised(style, size)

        def add(text: str | None) -> None:
            if text:
                run = self._run(text, style, look, size, decorated, raised_mm)
                self.runs.append(_Found(run, within, preserve))

        add(element.text)
        for child in element:
            tag = local_name(child)
            if tag in ("tspan", "textPath", "a", "tref", "altGlyph") and self._depth < 100:
                own = self.context.style_of(child, style)
                if own["display"] != "none":
                    if tag == "textPath":
                        self._follow(child, size)
                    elif tag in ("tref", "altGlyph"):
                        self.beyond.append(tag)
                    self.element(child, own, within, space, decorated, raised_mm)
            elif tag not in ("", "title", "desc"):
                self.context.remark(say("“{tag}” inside a text was left out", tag=tag), LEFT_OUT)
            add(child.tail)
        self._depth -= 1

    def _mm(self, text: str, em: float, whole: float | None = None) -> float:
        """A length of the text in mm of its own axes; 0 and a remark where it is none."""
        try:
            return length(text, em * PX / self.scale, whole)[0] * self.scale / PX
        except LengthError as problem:
            self.context.remark(say("a length in a text was left out: {problem}", problem=problem), LEFT_OUT)
            return 0.0

    def _lists(self, element: etree._Element, em: float) -> _Lists:
        """What an element says of its characters."""
        x, y, dx, dy = (
            tuple(self._mm(word, em, self.context.viewport[axis % 2] * PX) for word in words.replace(",", " ").split())
            for axis, words in enumerate(element.get(name, "") for name in ("x", "y", "dx", "dy"))
        )
        turns = element.get("rotate", "").strip()
        return _Lists(x, y, dx, dy, tuple(numbers(turns, [])) if turns and turns != "auto" else ())

    def _whole(self, element: etree._Element, style: Style, em: float) -> None:
        """What is said of an element as a whole."""
        if element.get("textLength"):
            wanted = self._mm(element.get("textLength", ""), em)
            if self._depth == 1:
                self.length_mm = wanted
                self.stretch_glyphs = element.get("lengthAdjust") == "spacingAndGlyphs"
            else:
                self.beyond.append("textLength of a part")
        for name, plain in (
            ("writing-mode", ("horizontal-tb", "lr", "lr-tb", "tb", "tb-rl", "vertical-rl", "vertical-lr")),
            ("text-orientation", ("mixed", "upright", "sideways")),
            ("shape-inside", ("auto", "none")),
            ("font-variant", ("normal", "none")),
            ("font-size-adjust", ("none",)),
            ("text-transform", ("none", *_CASES)),
            *((f"font-variant-{name}", ("normal", *_VARIANTS)) for name in ("ligatures", "numeric")),
            *((f"font-variant-{name}", ("normal",)) for name in ("alternates", "caps", "east-asian", "position")),
        ):
            if not set(style[name].split()) <= set(plain):
                self.beyond.append(name)
        if style["inline-size"] not in ("auto", "0"):
            self.wrap_mm = self._mm(style["inline-size"], em)
        if match := _SHAPE.match(style["shape-inside"]):
            shape = self.context.path_of(match[1])
            self.wrap_inside = shape.transformed(Transform(self.scale, 0, 0, self.scale, 0, 0)) if shape else None

    def _follow(self, element: etree._Element, em: float) -> None:
        """The guide of a `textPath`."""
        if self.runs or self.guide is not None:
            self.beyond.append("a guide for a part of it")
        reference = next((element.get(name, "") for name in HREF if element.get(name)), "")
        path = self.context.path_of(reference.removeprefix("#")) if reference.startswith("#") else None
        if path is None:
            self.context.remark(
                say("the path “{reference}” that a text follows is not in the file", reference=reference), None
            )
            self.beyond.append("a guide that is not in the file")
            return
        offset = element.get("startOffset", "0").strip()
        share = numbers(offset[:-1], [0.0])[0] / 100 if offset.endswith("%") else 0.0
        self.guide = Guide(
            path.transformed(Transform(self.scale, 0, 0, self.scale, 0, 0)),
            0.0 if offset.endswith("%") else self._mm(offset or "0", em),
            share,
            element.get("side") == "right",
            element.get("spacing") == "exact",
            element.get(TAKEN_FROM, "") or reference.removeprefix("#"),
        )

    def _raised(self, style: Style, size: float) -> float:
        """How far its own `baseline-shift` lifts it off its parent's baseline, in mm."""
        said = style["baseline-shift"]
        share = {"sub": -0.2, "super": 0.4, "baseline": 0.0}.get(said)
        return size * share if share is not None else self._mm(said, size, size * PX / self.scale)

    def _run(self, text: str, style: Style, look: Appearance, size: float, decorated: str, raised_mm: float) -> Run:
        letter, word = (
            0.0 if style[name] == "normal" else self._mm(style[name], size, size * PX / self.scale)
            for name in ("letter-spacing", "word-spacing")
        )
        aligned = style["alignment-baseline"]
        line = style["dominant-baseline"] if aligned in ("auto", "baseline", "alphabetic") else aligned
        return Run(
            _CASES.get(style["text-transform"], str)(text),
            face_query(style),
            size,
            look,
            letter,
            word,
            features=_features(style),
            baseline_mm=raised_mm,
            decoration=decorated,
            line="" if line in ("auto", "baseline", "alphabetic") else line,
            anchor=style["text-anchor"] if style["text-anchor"] != self.anchor else "",
        )


def face_query(style: Style) -> FaceQuery:
    """The face that font properties ask for."""
    families = [name.strip().strip("\"'").strip() for name in style["font-family"].split(",")]
    italic = style["font-style"].startswith(("italic", "oblique"))
    axes = tuple(
        (tag, float(value))
        for tag, value in re.findall(r"[\"'](\w{4})[\"']\s*(-?\d+\.?\d*)", style["font-variation-settings"])
    )
    weight = font_weight(style["font-weight"])
    return FaceQuery(tuple(filter(None, families)), weight, italic, style["font-stretch"], axes)


def _features(style: Style) -> tuple[tuple[str, int], ...]:
    """OpenType features that the style switches."""
    found = [
        (tag, {"on": 1, "off": 0, "": 1}.get(value, int(value) if value.isdigit() else 1))
        for tag, value in re.findall(r"[\"'](\w{4})[\"']\s*(on|off|\d*)", style["font-feature-settings"])
    ]
    if style["font-variant"] == "small-caps":
        found.append(("smcp", 1))
    for name in ("ligatures", "numeric"):
        found += [feature for word in style[f"font-variant-{name}"].split() for feature in _VARIANTS.get(word, ())]
    if style["font-kerning"] == "none":
        found.append(("kern", 0))
    return tuple(found)


def _collapsed(runs: list[_Found]) -> list[_Found]:
    """White space as `xml:space` says (SVG 1.1, section 10.15)."""
    result: list[_Found] = []
    after_space = True
    for found in runs:
        text = found.run.text
        if found.preserve:
            text = re.sub(r"[\t\r\n]", " ", text)
        else:
            text = re.sub(r"[ \t]+", " ", re.sub(r"[\r\n]", "", text))
            text = text.removeprefix(" ") if after_space else text
        if not text:
            continue
        after_space = text.endswith(" ") and not found.preserve
        result.append(replace(found, run=replace(found.run, text=text)))
    if result and not result[-1].preserve:
        last = result.pop()
        if text := last.run.text.removesuffix(" "):
            result.append(replace(last, run=replace(last.run, text=text)))
    return result if any(found.run.text.strip() for found in result) else []


def _placed(runs: list[_Found]) -> list[Run]:
    """Each run with the positions of its own characters: of the elements that it is in, the innermost that still says
    something counts (SVG 1.1, 10.5). The last rotation of an element holds on within it.
    """
    result: list[Run] = []
    turn = 0.0
    for found in runs:
        said: dict[str, list[float]] = {"x": [], "y": [], "dx": [], "dy": []}
        turns: list[float] = []
        for place in range(len(found.run.text)):
            for name, values in said.items():
                value = _said(found.within, name)
                if value is not None:
                    values += [0.0] * (place - len(values)) + [value]  # only of distances may some be left out
            turns.append(_turned(found.within))
            for element in found.within:
                element.passed += 1
        x, y, dx, dy = (tuple(values) for values in said.values())
        each = None
        if max(map(len, said.values())) > 1 or any(other != turn for other in turns):
            while len(turns) > 1 and turns[-1] == turns[-2]:
                turns.pop()
            each = Each(x, y, dx, dy, tuple(turns))
        turn = turns[-1]
        first: float | None = None if result else 0.0
        at = (x[0] if x else first, y[0] if y else first)
        result.append(replace(found.run, at=at, shift=(dx[0] if dx else 0.0, dy[0] if dy else 0.0), each=each))
    return result


def _turned(within: tuple[_Lists, ...]) -> float:
    for element in reversed(within):
        if element.rotate:
            return element.rotate[min(element.passed, len(element.rotate) - 1)]
    return 0.0


def _said(within: tuple[_Lists, ...], name: str) -> float | None:
    for element in reversed(within):
        values: tuple[float, ...] = getattr(element, name)
        if element.passed < len(values):
            return values[element.passed]
    return None
