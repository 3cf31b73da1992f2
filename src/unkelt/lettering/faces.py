"""The shelf of faces. Nothing is ever put in place of a face that isn't there."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from pathlib import Path

import uharfbuzz as hb
from fontTools.ttLib import TTFont

from unkelt.sheet.model import FaceQuery

GENERIC_FAMILIES = frozenset(
    [
        "serif",
        "sans-serif",
        "cursive",
        "fantasy",
        "monospace",
        "system-ui",
        "ui-serif",
        "ui-sans-serif",
        "math",
        "emoji",
    ]
)
"""CSS names that leave the choice to the machine that happens to show the file; they name no face."""

SYNTHETIC_BOLD_STEP = 150
"""A face lighter than asked by this much would be thickened by whoever shows the file; that is not the face."""

WIDTHS = {
    "ultra-condensed": 50.0,
    "extra-condensed": 62.5,
    "condensed": 75.0,
    "semi-condensed": 87.5,
    "normal": 100.0,
    "semi-expanded": 112.5,
    "expanded": 125.0,
    "extra-expanded": 150.0,
    "ultra-expanded": 200.0,
}
"""CSS's words for widths, in the order of OpenType's width classes 1 to 9 (both specifications give these percents)."""

PACKED = frozenset([".woff", ".woff2"])
"""Files that the shaper can't read as they are."""


@dataclass(frozen=True, slots=True)
class Face:
    """One face in a font file; `axes` say where on a variable face's axes it lies."""

    path: Path
    index: int
    family: str
    style: str
    weight: int
    italic: bool
    postscript: str
    bundled: bool
    axes: tuple[tuple[str, float], ...] = ()
    width: float = 100.0
    """How wide it runs, in percent of normal: 75 is condensed."""
    kind: str = field(default="", compare=False)
    use: str = field(default="", compare=False)
    """What kind of lettering it is and what its licence allows, where the index knows (`kind_of`, `use_of`)."""

    @property
    def name(self) -> str:
        """Family and style, "Barlow SemiBold"; a regular face goes by its family alone."""
        return self.family if self.style.lower() in ("regular", "") else f"{self.family} {self.style}"


class Shelf:
    """Faces found by family, with width, slant and weight matched by the CSS rules."""

    def __init__(self, faces: Iterable[Face], damaged: Iterable[str] = ()) -> None:
        self._faces = tuple(faces)
        self._damaged = tuple(damaged)
        self._other: Callable[[], Shelf] | None = None

    @classmethod
    def when_asked(cls, other: Callable[[], Shelf]) -> Shelf:
        """A shelf that holds what another does, which is made when it is first asked for."""
        shelf = cls(())
        shelf._other = other
        return shelf

    @property
    def faces(self) -> tuple[Face, ...]:
        """All of them, in the order in which they were found."""
        return self._other().faces if self._other else self._faces

    @property
    def damaged(self) -> tuple[str, ...]:
        """A sentence for each file that could not be read."""
        return self._other().damaged if self._other else self._damaged

    @cached_property
    def _by_family(self) -> dict[str, list[Face]]:
        table: dict[str, list[Face]] = {}
        for face in self.faces:
            for name in {face.family.casefold(), face.name.casefold(), face.postscript.casefold()}:
                table.setdefault(name, []).append(face)
        return table

    def families(self) -> list[str]:
        """The families on the shelf, in the order of the alphabet."""
        return sorted({face.family for face in self.faces}, key=str.casefold)

    def match(self, query: FaceQuery) -> Face | None:
        """The face asked for, or None: when the first family named is not there, or would have to be faked.

        Later families of the list are the author's stand-ins, not what was drawn, so they are not taken silently.
        """
        families = [family for family in query.families if family.casefold() not in GENERIC_FAMILIES]
        if not families:
            return None
        found = self._by_family.get(families[0].casefold(), [])
        wanted = width_percent(query.stretch)
        widths = {face.width for face in found}
        width = min(widths, key=lambda width: _width_rank(wanted, width), default=100.0)
        candidates = [face for face in found if face.italic == query.italic and face.width == width]
        if not candidates:
            return None
        # The machine's own face is what files were drawn with here; the bundled one is there for machines without.
        best = min(candidates, key=lambda face: (_weight_rank(query.weight, face.weight), face.bundled))
        best = _at(best, query)
        faked = query.weight >= 600 and best.weight <= query.weight - SYNTHETIC_BOLD_STEP
        return None if faked else best

    def rivals(self, face: Face) -> list[Face]:
        """The same face in other files of another version."""
        own = version_of(face)
        alike = (each for each in self._by_family.get(face.family.casefold(), []) if each.path != face.path)
        same = [
            each
            for each in alike
            if (each.family, each.weight, each.italic, each.width)
            == (face.family, face.weight, face.italic, face.width)
        ]
        return [each for each in same if version_of(each) != own]

    def stands_in(self, query: FaceQuery) -> str | None:
        """The first of the text's own stand-in families that is on the shelf, for the message."""
        return next((name for name in query.families[1:] if name.casefold() in self._by_family), None)


@dataclass(frozen=True, slots=True)
class Axis:
    """An axis of a variable face: its tag, its name for people, and its values."""

    tag: str
    name: str
    least: float
    usual: float
    most: float


@lru_cache(maxsize=512)
def axes_of(face: Face) -> tuple[Axis, ...]:
    """The axes of a face that people may turn; none of a face that doesn't vary (OpenType specification, "fvar")."""
    if not face.axes:
        return ()
    font = open_face(replace(face, axes=())).face
    return tuple(
        Axis(each.tag, font.get_name(each.name_id) or each.tag, each.min_value, each.default_value, each.max_value)
        for each in font.axis_infos
        if each.min_value < each.max_value and not each.flags & HIDDEN_AXIS
    )


HIDDEN_AXIS = 1
"""The flag of an axis that its maker keeps for himself."""


def _at(face: Face, query: FaceQuery) -> Face:
    """A variable face at exactly the weight and width that is asked for, where its axes reach there, and at the places
    that are asked for of other axes (CSS Fonts 4, "Font matching" and `font-variation-settings`).
    """
    axes = {axis.tag: axis for axis in axes_of(face)}
    if not axes:
        return face
    place = dict(face.axes)
    usual = {"wght": float(query.weight), "wdth": width_percent(query.stretch)}
    place |= {tag: usual[tag] for tag in usual.keys() & axes if axes[tag].least <= usual[tag] <= axes[tag].most}
    place |= {tag: min(max(value, axes[tag].least), axes[tag].most) for tag, value in query.axes if tag in axes}
    if place == dict(face.axes):
        return face
    style = " ".join(f"{tag} {value:g}" for tag, value in sorted(place.items()) if value != axes[tag].usual)
    return replace(
        face,
        axes=tuple(sorted(place.items())),
        weight=round(place.get("wght", face.weight)),
        width=place.get("wdth", face.width),
        style=style,
    )


def width_percent(stretch: str) -> float:
    """A CSS font-stretch as percent; what isn't understood is normal."""
    if stretch.endswith("%"):
        try:
            return float(stretch[:-1])
        except ValueError:
            return 100.0
    return WIDTHS.get(stretch, 100.0)


def _width_rank(wanted: float, width: float) -> tuple[int, float]:
    """CSS Fonts 4, section "Matching font styles": normal and narrower look for narrower ones first, wider for
    wider.
    """
    narrower_first = wanted <= 100
    return (0 if width == wanted else 1 if (width < wanted) == narrower_first else 2), abs(width - wanted)


def _weight_rank(wanted: int, weight: int) -> tuple[int, int]:
    """CSS Fonts 4, section "Matching font styles": which weight is nearest to the one wanted; lowest is best."""
    if weight == wanted:
        return 0, 0
    if 400 <= wanted <= 500:
        if wanted < weight <= 500:
            return 1, weight
        return (2, -weight) if weight < wanted else (3, weight)
    lighter_first = wanted < 400
    return (1 if (weight < wanted) == lighter_first else 2), (-weight if weight < wanted else weight)


@lru_cache(maxsize=512)
def version_of(face: Face) -> str:
    """The version that a face's file states (name table, ID 5, by the OpenType specification); empty where it states
    none.
    """
    said = open_face(face).face.get_name(5) or ""
    return said.split(";")[0].replace("Version", "").strip()


@lru_cache(maxsize=64)
def open_face(face: Face) -> hb.Font:
    """The face ready for shaping and drawing, in font units with y up; a variable one at its instance's place."""
    if face.path.suffix.lower() in PACKED:
        unpacked = io.BytesIO()
        with TTFont(face.path, fontNumber=face.index) as packed:
            packed.flavor = None
            packed.save(unpacked)
        blob, index = hb.Blob(unpacked.getvalue()), 0
    else:
        blob, index = hb.Blob.from_file_path(str(face.path)), face.index
    font = hb.Font(hb.Face(blob, index))
    if face.axes:
        font.set_variations(dict(face.axes))
    return font
