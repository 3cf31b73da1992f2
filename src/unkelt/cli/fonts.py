"""`unkelt fonts`: the faces that can be used."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from unkelt.cli.common import say_json
from unkelt.cli.status import Status
from unkelt.facts import Facts
from unkelt.lettering.faces import Face
from unkelt.lettering.kinds import Kind, kind_of
from unkelt.lettering.licence import use_of
from unkelt.lettering.shelves import standard_shelf
from unkelt.session.face_list import Wanted, Weight, Width


@dataclass(frozen=True, kw_only=True)
class Asked:
    """`unkelt fonts`: what was asked for."""

    name: str = ""
    kind: str = ""
    weight: Weight = ""
    letters: Width = ""
    business: bool = False
    json: bool = False
    faces: Sequence[Path] = ()

    @property
    def wanted(self) -> Wanted:
        """What is looked for."""
        return Wanted(self.name, Kind(self.kind) if self.kind else None, self.weight, self.letters, self.business)


def run(asked: Asked) -> int:
    """Lists the faces at hand; the exit status."""
    shelf = standard_shelf(tuple(asked.faces))
    for sentence in shelf.damaged:
        print(f"unkelt: {sentence}", file=sys.stderr)
    faces = [face for face in shelf.faces if asked.wanted.fits(face)]
    if asked.json:
        say_json({"schema": "unkelt.fonts/1", "faces": [_facts(face) for face in faces]})
    else:
        for face in faces:
            more = f"{' italic' if face.italic else ''}{'  (bundled)' if face.bundled else ''}"
            print(f"{face.name:32} {face.weight:4} {kind_of(face):8} {use_of(face)}{more}")
    return Status.CLEAN


def _facts(face: Face) -> Facts:
    return {
        "family": face.family,
        "style": face.style,
        "weight": face.weight,
        "italic": face.italic,
        "postscript": face.postscript,
        "bundled": face.bundled,
        "width_percent": face.width,
        "kind": kind_of(face),
        "licence": use_of(face),
        "axes": dict(face.axes),
        "path": str(face.path),
    }
