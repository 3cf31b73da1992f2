"""Stand-ins for importing software: what an importer of these habits makes of a written file.

They stand where real ones could: whatever has a `name` and reads a file to an `Imported` will do.
"""

from __future__ import annotations

import tempfile
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path as FilePath
from typing import Any, Protocol
from xml.etree import ElementTree

from fontTools.misc.transform import Transform

from unkelt.errors import InputError
from unkelt.job.importing import Habits, known_habits
from unkelt.messages import say
from unkelt.proof.imported import Imported
from unkelt.proof.importer import import_file

SVG = "{http://www.w3.org/2000/svg}"
INHERITED = ("fill", "stroke", "stroke-width", "fill-rule", "opacity", "transform", "style")


class Importer(Protocol):
    """What a real driver would have to be."""

    @property
    def name(self) -> str:
        """What people call it."""

    def read(self, path: FilePath) -> Imported:
        """What it makes of a file. Raises InputError."""


@dataclass(frozen=True, slots=True)
class StandIn:
    """An importer of these habits."""

    habits: Habits

    @property
    def name(self) -> str:
        """What people call it."""
        return self.habits.name

    @property
    def says(self) -> str:
        """What it does otherwise than others, in a line."""
        return self.habits.says

    def read(self, path: FilePath) -> Imported:
        """The file as this importer reads it. What has no styles or no units to ignore is read by its usual reader."""
        habits = self.habits
        svg = path.suffix.lower() not in (".dxf", ".pdf", ".plt")
        found = self._read_without(path) if svg and not (habits.styles and habits.groups) else import_file(path)
        if habits.per_inch is not None and found.number_mm is not None:
            found = _scaled(found, habits.number_mm / found.number_mm)
        bodies = found.bodies
        if habits.fill_rule is not None:
            bodies = tuple(replace(body, even_odd=habits.fill_rule == "even-odd") for body in bodies)
        if habits.most_nodes is not None:
            bodies = tuple(body for body in bodies if body.path.node_count <= habits.most_nodes)
        return replace(found, bodies=bodies)

    def _read_without(self, path: FilePath) -> Imported:
        tree = _parsed(path)
        for element in tree.iter():
            if not self.habits.styles:
                element.attrib.pop("style", None)
            if not self.habits.groups and element.tag == f"{SVG}g":
                for name in INHERITED:
                    element.attrib.pop(name, None)
        with tempfile.TemporaryDirectory() as folder:
            stripped = FilePath(folder) / path.name
            tree.write(stripped, encoding="utf-8", xml_declaration=True)
            return import_file(stripped)


def _parsed(path: FilePath) -> ElementTree.ElementTree[Any]:
    try:
        return ElementTree.parse(path)
    except (OSError, ElementTree.ParseError) as problem:
        raise InputError(str(path), say("the stand-in can't read it: {problem}", problem=problem)) from problem


def _scaled(found: Imported, factor: float) -> Imported:
    matrix = Transform(factor, 0, 0, factor, 0, 0)
    bodies = tuple(replace(body, path=body.path.transformed(matrix)) for body in found.bodies)
    return replace(found, page_mm=(found.page_mm[0] * factor, found.page_mm[1] * factor), bodies=bodies)


@lru_cache(maxsize=1)
def stand_ins() -> dict[str, StandIn]:
    """An importer of each of the habits that come with the product, by their names, the plain one first."""
    return {name: StandIn(habits) for name, habits in known_habits().items()}
