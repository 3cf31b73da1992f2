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
from unkelt.lettering.shelves import standard_shelf


@dataclass(frozen=True, kw_only=True)
class Asked:
    """`unkelt fonts`: what was asked for."""

    json: bool = False
    faces: Sequence[Path] = ()


def run(asked: Asked) -> int:
    """Lists the faces at hand; the exit status."""
    shelf = standard_shelf(tuple(asked.faces))
    for sentence in shelf.damaged:
        print(f"unkelt: {sentence}", file=sys.stderr)
    if asked.json:
        say_json({"schema": "unkelt.fonts/1", "faces": [_facts(face) for face in shelf.faces]})
    else:
        for face in shelf.faces:
            more = f"{' italic' if face.italic else ''}{'  (bundled)' if face.bundled else ''}"
            print(f"{face.name:32} {face.weight}{more}")
    return Status.CLEAN


def _facts(face: Face) -> Facts:
    return {
        "family": face.family,
        "style": face.style,
        "weight": face.weight,
        "italic": face.italic,
        "postscript": face.postscript,
        "bundled": face.bundled,
        "axes": dict(face.axes),
        "path": str(face.path),
    }
