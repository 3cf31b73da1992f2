"""The sheet and its items. Nothing here ever changes: a step makes a new sheet that shares what it left alone.

Glossary: one word for one thing, in code, window, messages and docs.

    sheet       a drawing on its page; it holds items
    item        an outline, a lettering, a picture, or a group of items
    outline     a path with a look
    path        one or more subpaths
    subpath     segments in a row, closed or open
    segment     a line, quadratic or cubic between two nodes; a handle is an off-curve control point
    node        an on-curve point where segments meet
    ring        a closed subpath as the boundary of an area
    counter     a ring that is a hole
    piece       one connected region of material: an outer ring with its counters
    body        what importing software shows as one thing: a compound path
    word        outlines that are one lettering
    look        how an item is painted (`Appearance`)
    material    what lies in the machine: a colour, unless the ticket makes several colours one
    lettering   live text; when it is outlined, it is the origin of the outlines
    run         letters of a text with one face, size and look
    face        one weight and style of a typeface family
    guide       the path that text is set on; a guide line lies across the sheet to draw by
    ticket      what the job must be: size, machine, colours and their operations
    finding     what would go wrong at the machine; a step cures it; a recipe is steps in order
    evidence    what a step changed and what it guarantees, in numbers
    dry run     the moves of the machine, computed
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Any, Literal, TypeVar

from fontTools.misc.transform import Identity, Transform

from unkelt.geometry.measure import Box, bounds, find_boxes, join_boxes
from unkelt.geometry.path import Path
from unkelt.sheet.appearance import Appearance

Kind = TypeVar("Kind")


class Reads(StrEnum):
    """Which way round something reads, as the machine sees it."""

    FORWARDS = "forwards"
    BACKWARDS = "backwards"
    EITHER = "either way"
    """An ornament and its mirror image, or a mark for people: right in any case."""
    UNKNOWN = "unknown"
    """The file doesn't tell."""

    def mirrored(self) -> Reads:
        """After it was mirrored."""
        return {Reads.FORWARDS: Reads.BACKWARDS, Reads.BACKWARDS: Reads.FORWARDS}.get(self, self)


@dataclass(frozen=True, slots=True)
class FaceQuery:
    """The face that a text asks for, in CSS terms; families in the order they are to be tried. `axes` are places on the
    axes of a variable face, by their tags.
    """

    families: tuple[str, ...] = ()
    weight: int = 400
    italic: bool = False
    stretch: str = "normal"
    axes: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True, slots=True)
class Each:
    """Positions given character by character, in mm and degrees; a shorter list than the text says no more of the rest,
    but the last rotation holds on.
    """

    x: tuple[float, ...] = ()
    y: tuple[float, ...] = ()
    dx: tuple[float, ...] = ()
    dy: tuple[float, ...] = ()
    rotate: tuple[float, ...] = ()


Stand = Literal["turned", "upright", "slanted"]
"""How letters stand on a guide: turned with it, upright, or with their feet along it and their stems upright."""


@dataclass(frozen=True, slots=True)
class Guide:
    """The path that text is set on, in the text's own axes; `offset` along it in mm, or a share of its length.

    `exact` spacing forbids to adjust the letters' distances on bends. `stand` says how letters stand on the path.
    `source` is the id of the outline that it was taken from.
    """

    path: Path
    offset_mm: float = 0.0
    offset_share: float = 0.0
    right_side: bool = False
    exact: bool = False
    source: str = ""
    stand: Stand = "turned"


DECORATIONS = ("underline", "overline", "line-through")
"""The bars that decorate text."""


@dataclass(frozen=True, slots=True)
class Run:
    """A stretch of lettering set alike. `at` starts it anew at a place, `shift` moves it on; mm in the text's own axes.

    `capitals_mm` asks for capitals of a height; the size follows from the face, and `size_mm` is an estimate till then.
    `slant_deg` leans letters to the right and `width` makes them wider, as a share of the face's own; they stay live.
    `line` names what of the face lies on the line, where it isn't the baseline (CSS dominant-baseline); `anchor` is the
    run's own, where it isn't the text's; `decoration` names its bars.
    """

    text: str
    face: FaceQuery
    size_mm: float
    look: Appearance
    letter_spacing_mm: float = 0.0
    word_spacing_mm: float = 0.0
    at: tuple[float | None, float | None] = (None, None)
    shift: tuple[float, float] = (0.0, 0.0)
    each: Each | None = None
    features: tuple[tuple[str, int], ...] = ()
    baseline_mm: float = 0.0
    decoration: str = ""
    line: str = ""
    anchor: str = ""
    capitals_mm: float | None = None
    slant_deg: float = 0.0
    width: float = 1.0


@dataclass(frozen=True, slots=True)
class Frame:
    """What text is wrapped in: its width, the distance of baselines (as a length, or as a multiple of the size), what
    is added between paragraphs, and columns with what lies between them; mm. A line end in the text ends a paragraph.
    """

    width_mm: float
    pitch_mm: float | None = None
    factor: float | None = None
    between_mm: float = 0.0
    columns: int = 1
    gap_mm: float = 0.0


@dataclass(frozen=True, slots=True)
class Pen:
    """Where a letter that the file draws itself begins, in the text's own axes, and its advance; mm."""

    x: float
    y: float
    advance: float


@dataclass(frozen=True, slots=True)
class Lettering:
    """Live text: not yet outlines. `placement` carries its own axes, in mm, onto the sheet.

    `beyond` names what the file asks of this text that can't be set yet; such text is never outlined without it.
    `drawn` are letters with the curves that the file itself carries for them, on the sheet: an embedded face. `pens`
    says where each begins, where the file tells, and `space_mm` how wide its space is.
    `vertical` text runs down the page, its letters turned by a quarter or `upright`, one below the other.
    """

    id: str
    runs: tuple[Run, ...]
    anchor: str = "start"
    placement: Transform = Identity
    label: str | None = None
    beyond: tuple[str, ...] = ()
    guide: Guide | None = None
    length_mm: float | None = None
    stretch_glyphs: bool = False
    direction: str = "ltr"
    vertical: bool = False
    upright: bool = False
    frame: Frame | None = None
    wrap_inside: Path | None = None
    drawn: tuple[tuple[str, Path], ...] = ()
    pens: tuple[Pen, ...] = ()
    space_mm: float = 0.0

    @property
    def text(self) -> str:
        """All its words; what starts anew at a place of its own, or as a paragraph, is parted by a space."""
        parts = [(" " if index and run.at[1] is not None else "") + run.text for index, run in enumerate(self.runs)]
        return "".join(parts).replace("\n", " ")

    @property
    def place(self) -> Box:
        """Where it begins, as a box of one em: all that is known of a text whose face isn't there."""
        run = self.runs[0]
        x, y = self.placement.transformPoint((run.at[0] or 0.0, run.at[1] or 0.0))
        return x, y - run.size_mm, x + run.size_mm, y

    @property
    def reads(self) -> Reads:
        """Which way round it reads: its placement may mirror it."""
        m = self.placement
        return Reads.BACKWARDS if m.xx * m.yy - m.xy * m.yx < 0 else Reads.FORWARDS


@dataclass(frozen=True, slots=True)
class Outline:
    """A compound path with its appearance. `origin` is the lettering it was made from, `letters` which of its text;
    `copy` tells copies of one lettering apart. `reads` is which way round it reads. `moved_mm` is how far steps may
    have moved its lines since it was received, beside what was asked for.
    """

    id: str
    path: Path
    look: Appearance
    label: str | None = None
    origin: Lettering | None = None
    letters: str = ""
    copy: str = ""
    reads: Reads = Reads.FORWARDS
    moved_mm: float = field(default=0.0, compare=False)


@dataclass(frozen=True, slots=True)
class Picture:
    """A raster picture, which no blade can follow, on a frame of its own `size`, which `placement` carries onto the
    sheet, in mm; `reference` is the file's own href.

    `fit` and `smoothing` are what SVG says of how it fills its frame (`preserveAspectRatio`) and of its pixels
    (`image-rendering`), empty for what is usual.
    """

    id: str
    size: tuple[float, float]
    placement: Transform
    reference: str
    label: str | None = None
    opacity: float = 1.0
    visible: bool = True
    fit: str = ""
    smoothing: str = ""

    @property
    def corners(self) -> list[tuple[float, float]]:
        """Of its frame on the sheet, in mm."""
        wide, high = self.size
        return [self.placement.transformPoint(point) for point in ((0, 0), (wide, 0), (wide, high), (0, high))]

    @property
    def box(self) -> Box:
        """Where its frame lies on the sheet, in mm."""
        xs, ys = zip(*self.corners, strict=True)
        return min(xs), min(ys), max(xs), max(ys)


READS = {Reads.BACKWARDS: "reads-backwards", Reads.EITHER: "reads-either-way"}
"""What outlines are called in a file that don't read forwards: SVG has no word for it."""

LAYER = "layer"
"""What a group is called in a file that is a layer: SVG has no word for it."""


@dataclass(frozen=True, slots=True)
class Group:
    """Items that belong together; what only lies on one layer need not."""

    id: str
    items: tuple[Item, ...]
    label: str | None = None
    is_layer: bool = False


Item = Outline | Lettering | Picture | Group


LEFT_OUT = "content.left-out"
"""The code of remarks on what a reader could not read, and left out."""


@dataclass(frozen=True, slots=True)
class Remark:
    """Something that reading left out, changed or could only guess. `code` is the finding it belongs to, if any;
    `outside` says that what it is about lies outside the file.
    """

    words: str
    code: str | None = None
    items: tuple[str, ...] = ()
    outside: bool = False


@dataclass(frozen=True, slots=True)
class Scale:
    """How sure the physical size is. `per_inch` is what the file's numbers seem to assume, and `evidence` why."""

    sure: bool = True
    per_inch: int | None = None
    evidence: str = ""
    uneven: float = 1.0


@dataclass(frozen=True, slots=True)
class Source:
    """What the file said before it was understood: its kind, its units as written, what reading has to remark, how many
    pages it has and which was read, counted from 1.
    """

    name: str = ""
    units: str = "mm"
    remarks: tuple[Remark, ...] = ()
    kind: str = "SVG"
    scale: Scale = Scale()
    pages: int = 1
    page: int = 1

    @property
    def notes(self) -> tuple[str, ...]:
        """The remarks as sentences, each once with how often it was made."""
        counts: dict[str, int] = {}
        for remark in self.remarks:
            counts[remark.words] = counts.get(remark.words, 0) + 1
        return tuple(f"{words} (× {count})" if count > 1 else words for words, count in counts.items())


@dataclass(frozen=True, slots=True)
class Sheet:
    """A page of items; lengths in mm, y down, the origin at the page's top left."""

    page_mm: tuple[float, float]
    items: tuple[Item, ...] = ()
    source: Source = field(default_factory=Source)
    _by_id: dict[str, Item] = field(default_factory=dict, init=False, repr=False, compare=False)
    _by_kind: dict[type, tuple[Any, ...]] = field(default_factory=dict, init=False, repr=False, compare=False)
    """Both made when first asked for; a sheet never changes."""

    def walk(self) -> Iterator[Item]:
        """All items, groups before what they hold."""
        return _walk(self.items)

    def outlines(self) -> list[Outline]:
        """All outlines, whatever groups they are in, in the order they are painted."""
        return list(self._of(Outline))

    def letterings(self) -> list[Lettering]:
        """All text that is still text, in the order it is painted."""
        return list(self._of(Lettering))

    def groups(self) -> list[Group]:
        """Outer ones first."""
        return list(self._of(Group))

    def _of(self, kind: type[Kind]) -> tuple[Kind, ...]:
        found: tuple[Kind, ...] | None = self._by_kind.get(kind)
        if found is None:
            found = self._by_kind[kind] = tuple(item for item in self.walk() if isinstance(item, kind))
        return found

    def find(self, item_id: str) -> Item | None:
        """The item of that id, the first where several have it."""
        if not self._by_id:
            # Filled in one go, so that another thread sees all of it or nothing.
            self._by_id.update({item.id: item for item in reversed(list(self.walk()))})
        return self._by_id.get(item_id)

    def replaced(self, changes: Mapping[str, tuple[Item, ...]]) -> Sheet:
        """A sheet with each named item replaced by the given ones (none: taken out). Emptied groups go too."""
        return replace(self, items=_replaced(self.items, changes))

    def mapped(self, change: Callable[[Item], Item]) -> Sheet:
        """A sheet with every outline, lettering and picture passed through `change`."""
        return replace(self, items=_mapped(self.items, change))

    def fresh_id(self, stem: str) -> str:
        """`stem`, or `stem-2`, `stem-3` … where that is taken."""
        taken = {item.id for item in self.walk()}
        number, name = 1, stem
        while name in taken:
            number += 1
            name = f"{stem}-{number}"
        return name

    def drawn_box(self) -> Box | None:
        """The box of all outlines' lines, exact; strokes count by their centre line."""
        outlines = self.outlines()
        find_boxes([outline.path for outline in outlines])
        return join_boxes([box for outline in outlines if (box := bounds(outline.path))])


def _walk(items: tuple[Item, ...]) -> Iterator[Item]:
    stack = list(reversed(items))
    while stack:
        item = stack.pop()
        yield item
        if isinstance(item, Group):
            stack.extend(reversed(item.items))


def _replaced(items: tuple[Item, ...], changes: Mapping[str, tuple[Item, ...]]) -> tuple[Item, ...]:
    result: list[Item] = []
    for item in items:
        if item.id in changes:
            result.extend(changes[item.id])
        elif isinstance(item, Group):
            inner = _replaced(item.items, changes)
            if inner or not item.items:
                result.append(item if inner == item.items else replace(item, items=inner))
        else:
            result.append(item)
    return tuple(result)


def _mapped(items: tuple[Item, ...], change: Callable[[Item], Item]) -> tuple[Item, ...]:
    return tuple(
        replace(item, items=_mapped(item.items, change)) if isinstance(item, Group) else change(item) for item in items
    )
