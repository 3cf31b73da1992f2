"""The faces as people look for one: families with their weights, marked and lately used ones first, by name, kind,
weight, width and licence.
"""

from __future__ import annotations

import tomllib
from collections.abc import Collection, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Literal

import tomlkit

from unkelt.errors import InputError
from unkelt.formats.files import write_whole
from unkelt.lettering.faces import Face, Shelf
from unkelt.lettering.kinds import Kind, kind_of
from unkelt.lettering.licence import Use, use_of
from unkelt.messages import say, say_count
from unkelt.sheet.model import FaceQuery

Weight = Literal["", "light", "regular", "bold"]
Width = Literal["", "narrow", "normal", "wide"]

REMEMBERED = 12
"""So many families that were used last are remembered."""

WEIGHTS = {"light": (1, 399), "regular": (400, 599), "bold": (600, 1000)}
WIDTHS = {"narrow": (0.0, 99.0), "normal": (99.0, 101.0), "wide": (101.0, 1000.0)}


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is looked for; whatever is empty doesn't matter."""

    name: str = ""
    kind: Kind | None = None
    weight: Weight = ""
    width: Width = ""
    business: bool = False

    @property
    def narrows(self) -> int:
        """How many of them are asked for beside the name."""
        return sum(bool(each) for each in (self.kind, self.weight, self.width, self.business))

    def fits(self, face: Face) -> bool:
        """Whether a face is one of those. What costs most is asked last."""
        if self.name and not all(part in face.name.casefold() for part in self.name.casefold().split()):
            return False
        if self.weight and not WEIGHTS[self.weight][0] <= face.weight <= WEIGHTS[self.weight][1]:
            return False
        if self.width and not WIDTHS[self.width][0] <= face.width <= WIDTHS[self.width][1]:
            return False
        if self.business and use_of(face) is not Use.OPEN:
            return False
        return self.kind is None or kind_of(face) is self.kind


@dataclass(frozen=True, slots=True)
class Row:
    """A face in the list. A family's first row stands for all `of_family`, more than one; the others lie under it."""

    face: Face
    of_family: int = 1
    leads: bool = True
    is_open: bool = False
    marked: bool = False
    recent: bool = False

    @property
    def title(self) -> str:
        """The family's name on its row while it is closed, the style of a face that lies under it."""
        if not self.leads:
            return self.face.style or self.face.name
        return self.face.family if self.of_family > 1 and not self.is_open else self.face.name

    def about(self, use: Use) -> str:
        """How many faces a closed family has, and what the licence allows."""
        if self.of_family > 1 and self.leads and not self.is_open:
            return say("{faces} · {use}", faces=say_count("{count} face", "{count} faces", self.of_family), use=use)
        return say("{use}", use=use)


@dataclass(frozen=True, slots=True)
class FaceBook:
    """The families that a person marked, and those used last, the latest first. Kept in `path`, if there is one."""

    path: Path | None = None
    marked: tuple[str, ...] = ()
    recent: tuple[str, ...] = ()

    @classmethod
    def read(cls, path: Path) -> FaceBook:
        """What was kept; nothing where that is missing or damaged."""
        try:
            said = tomllib.loads(path.read_text(encoding="utf-8"))
        except (OSError, ValueError):
            return cls(path)
        lists = [said.get(name) for name in ("marked", "recent")]
        marked, recent = (tuple(each for each in found if isinstance(each, str)) if isinstance(found, list) else ()
                          for found in lists)  # fmt: skip
        return cls(path, marked, recent[:REMEMBERED])

    def turned(self, family: str) -> FaceBook:
        """With a family marked, or no longer so."""
        rest = tuple(each for each in self.marked if each != family)
        return self._kept(replace(self, marked=rest if len(rest) < len(self.marked) else (*self.marked, family)))

    def used(self, family: str) -> FaceBook:
        """With a family as the one used last."""
        rest = (each for each in self.recent if each != family)
        return self._kept(replace(self, recent=(family, *rest)[:REMEMBERED]))

    @staticmethod
    def _kept(book: FaceBook) -> FaceBook:
        if book.path is not None:
            said = tomlkit.dumps({"marked": list(book.marked), "recent": list(book.recent)})
            try:
                book.path.parent.mkdir(parents=True, exist_ok=True)
                write_whole(book.path, said.encode())
            except (InputError, OSError):
                pass  # a help and not a store
        return book


@dataclass(frozen=True)
class FaceRows:
    """The rows for what is wanted of some faces, which come nearest first; `opened` families show all their faces."""

    faces: Sequence[Face]
    wanted: Wanted = field(default_factory=Wanted)
    book: FaceBook = field(default_factory=FaceBook)
    opened: Collection[str] = ()

    def rows(self) -> list[Row]:
        """Marked families first, then those used last, then the nearest; each family's faces together."""
        families: dict[str, list[Face]] = {}
        for face in self.faces:
            if self.wanted.fits(face):
                families.setdefault(face.family, []).append(face)
        order = {name: number for number, name in enumerate(families)}
        latest = {name: number for number, name in enumerate(self.book.recent)}

        def place(name: str) -> tuple[bool, int, int]:
            return name not in self.book.marked, latest.get(name, len(latest)), order[name]

        found: list[Row] = []
        for name in sorted(families, key=place):
            faces, is_open = families[name], name in self.opened
            found.append(Row(faces[0], len(faces), True, is_open, name in self.book.marked, name in latest))
            if is_open:
                found += [Row(face, leads=False) for face in sorted(faces[1:], key=_within)]
        return found


def _within(face: Face) -> tuple[float, int, bool, str]:
    return face.width, face.weight, face.italic, face.style


def options_for(face: Face, shelf: Shelf) -> dict[str, str]:
    """The options of a step, as a person would write them, that set exactly this face: by its family where that names
    it, else by its own name.
    """
    stretch = "normal" if face.width == 100 else f"{face.width:g}%"
    family = face.family
    if shelf.match(FaceQuery((family,), face.weight, face.italic, stretch)) != face:
        family = next(
            (
                name
                for name in (face.name, face.postscript)
                if shelf.match(FaceQuery((name,), face.weight, face.italic, stretch)) == face
            ),
            family,
        )
    return {
        "family": family,
        "weight": str(face.weight),
        "italic": "yes" if face.italic else "no",
        "face_width": "" if face.width == 100 else f"{face.width:g}",
        "axes": "",
    }
