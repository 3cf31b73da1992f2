"""The shelf of faces: bundled and installed. Nothing is ever put in place of a face that isn't there."""

from __future__ import annotations

import subprocess
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property, lru_cache
from importlib.resources import files
from pathlib import Path

import uharfbuzz as hb
from fontTools.ttLib import TTFont, TTLibError

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

# fontconfig's weights against CSS's (FcWeightToOpenType in fontconfig's documentation).
_FONTCONFIG_WEIGHTS = [
    (0, 100),
    (40, 200),
    (50, 300),
    (80, 400),
    (100, 500),
    (180, 600),
    (200, 700),
    (205, 800),
    (210, 900),
]


@dataclass(frozen=True, slots=True)
class Face:
    """One face in a font file."""

    path: Path
    index: int
    family: str
    style: str
    weight: int
    italic: bool
    postscript: str
    bundled: bool

    @property
    def name(self) -> str:
        """Family and style, "Barlow SemiBold"; a regular face goes by its family alone."""
        return self.family if self.style.lower() in ("regular", "") else f"{self.family} {self.style}"


class Shelf:
    """Faces found by family, with weight and slant matched by the CSS rules."""

    def __init__(self, faces: Iterable[Face]) -> None:
        self.faces = tuple(faces)

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
        candidates = [face for face in found if face.italic == query.italic]
        if not candidates:
            return None
        best = min(candidates, key=lambda face: (_weight_rank(query.weight, face.weight), not face.bundled))
        faked = query.weight >= 600 and best.weight <= query.weight - SYNTHETIC_BOLD_STEP
        return None if faked else best

    def stands_in(self, query: FaceQuery) -> str | None:
        """The first of the text's own stand-in families that is on the shelf, for the message."""
        return next((name for name in query.families[1:] if name.casefold() in self._by_family), None)


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


@lru_cache(maxsize=1)
def standard_shelf() -> Shelf:
    """Bundled faces first, then the installed ones."""
    return Shelf((*bundled_faces(), *installed_faces()))


@lru_cache(maxsize=1)
def bundled_faces() -> tuple[Face, ...]:
    """The open-licence faces that come with the product."""
    folder = Path(str(files("unkelt") / "assets" / "faces"))
    return tuple(face for path in sorted(folder.rglob("*.ttf")) if (face := face_from_file(path, bundled=True)))


def face_from_file(path: Path, index: int = 0, *, bundled: bool = False) -> Face | None:
    """What a font file says of itself, or None when it is damaged."""
    try:
        with path.open("rb") as file, TTFont(file, fontNumber=index, lazy=True) as font:
            name, os2 = font["name"], font["OS/2"]
            family = name.getBestFamilyName() or path.stem
            style, postscript = name.getBestSubFamilyName() or "", name.getDebugName(6) or path.stem
            italic = bool(os2.fsSelection & 1) or bool(font["head"].macStyle & 2)
            return Face(path, index, family, style, os2.usWeightClass, italic, postscript, bundled)
    except (TTLibError, OSError, KeyError, ValueError, AssertionError):
        return None


def installed_faces() -> tuple[Face, ...]:
    """Faces that fontconfig knows; where it isn't installed, those in the usual folders."""
    form = r"%{file}\t%{index}\t%{family[0]}\t%{style[0]}\t%{weight}\t%{slant}\t%{postscriptname}\t%{variable}\n"
    try:
        listing = subprocess.run(["fc-list", "--format", form], capture_output=True, text=True, timeout=20, check=True)
    except (OSError, subprocess.SubprocessError):
        folders = [Path("/usr/share/fonts"), Path("/usr/local/share/fonts"), Path.home() / ".local/share/fonts"]
        paths = [
            path for folder in folders for path in sorted(folder.rglob("*")) if path.suffix.lower() in (".ttf", ".otf")
        ]
        return tuple(face for path in paths if (face := face_from_file(path)))
    faces = []
    for line in sorted(listing.stdout.splitlines()):
        fields = line.split("\t")
        if len(fields) != 8 or not fields[0].lower().endswith((".ttf", ".otf", ".ttc")) or fields[7] == "True":
            continue
        path, index, family, style, weight, slant, postscript, _ = fields
        try:
            css = min(_FONTCONFIG_WEIGHTS, key=lambda pair: abs(pair[0] - float(weight)))[1]
        except ValueError:
            continue
        faces.append(
            Face(Path(path), int(index) & 0xFFFF, family, style, css, slant not in ("", "0"), postscript, False)
        )
    return tuple(faces)


@lru_cache(maxsize=64)
def open_face(face: Face) -> hb.Font:
    """The face ready for shaping and drawing, in font units with y up."""
    return hb.Font(hb.Face(hb.Blob.from_file_path(str(face.path)), face.index))
