"""Stand-ins for importing software: invented behaviours, each a small TOML file, tried on a written SVG file.

They stand where real ones could: whatever has a `name` and reads a file to an `Imported` will do.
"""

from __future__ import annotations

import tempfile
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path as FilePath
from typing import Annotated, Any, Protocol
from xml.etree import ElementTree

from fontTools.misc.transform import Transform

from unkelt.errors import InputError
from unkelt.job.schema import Count, Number, Switch, Text, Written, loads, one_of, structured
from unkelt.messages import say
from unkelt.proof.imported import Imported
from unkelt.proof.importer import import_file
from unkelt.proof.standin_names import FOLDER, STAND_INS
from unkelt.units import MM_PER_UNIT

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
    """One invented importer. `fill_rule` and `per_inch` are None where it follows the file."""

    name: Text
    says: Text = ""
    fill_rule: Annotated[str, Written(one_of("even-odd", "nonzero"))] | None = None
    per_inch: Number | None = None
    styles: Switch = True
    groups: Switch = True
    most_nodes: Count | None = None

    def read(self, path: FilePath) -> Imported:
        """The file as this importer reads it. What isn't SVG is read by its usual reader, and only the rest applies."""
        svg = path.suffix.lower() not in (".dxf", ".pdf", ".plt")
        found = self._read_without(path) if svg and not (self.styles and self.groups) else import_file(path)
        if self.per_inch is not None and svg:
            found = _scaled(found, MM_PER_UNIT["in"] / self.per_inch / _user_unit_mm(path, found))
        bodies = found.bodies
        if self.fill_rule is not None:
            bodies = tuple(replace(body, even_odd=self.fill_rule == "even-odd") for body in bodies)
        if self.most_nodes is not None:
            bodies = tuple(body for body in bodies if body.path.node_count <= self.most_nodes)
        return replace(found, bodies=bodies)

    def _read_without(self, path: FilePath) -> Imported:
        tree = _parsed(path)
        for element in tree.iter():
            if not self.styles:
                element.attrib.pop("style", None)
            if not self.groups and element.tag == f"{SVG}g":
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


def _user_unit_mm(path: FilePath, found: Imported) -> float:
    """How many mm the file itself means by one of its numbers."""
    root = _parsed(path).getroot()
    assert root is not None
    box = (root.get("viewBox") or "").replace(",", " ").split()
    try:
        width = float(box[2])
    except (IndexError, ValueError):
        return MM_PER_UNIT["px"]
    return found.page_mm[0] / width if width > 0 else MM_PER_UNIT["px"]


def _scaled(found: Imported, factor: float) -> Imported:
    matrix = Transform(factor, 0, 0, factor, 0, 0)
    bodies = tuple(replace(body, path=body.path.transformed(matrix)) for body in found.bodies)
    return replace(found, page_mm=(found.page_mm[0] * factor, found.page_mm[1] * factor), bodies=bodies)


@lru_cache(maxsize=1)
def stand_ins() -> dict[str, StandIn]:
    """Those that come with the product, by their file's name, the plain one first."""
    return {name: parse_stand_in((FOLDER / f"{name}.toml").read_text(encoding="utf-8"), name) for name in STAND_INS}


def parse_stand_in(text: str, source: str) -> StandIn:
    """One from its TOML. Raises InputError naming the field."""
    found = structured(loads(text, source), source, StandIn)
    if not found.name:
        raise InputError(source, "a stand-in needs a name", "name")
    return found
