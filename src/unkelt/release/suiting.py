"""A sheet made to suit an importer's habits, so that it reads what was meant; whatever that takes is told."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from unkelt.errors import GeometryRefused
from unkelt.geometry.flatten import straightened
from unkelt.geometry.nesting import piece_paths, ring_nesting
from unkelt.geometry.orient import orient_rings
from unkelt.geometry.path import Path, concat
from unkelt.job.budget import chord_left_mm
from unkelt.job.cutting_order import inner_first
from unkelt.job.importing import Habits
from unkelt.language import grouped
from unkelt.messages import say
from unkelt.sheet.model import Group, Item, Outline, Sheet
from unkelt.sheet.naming import called


@dataclass(frozen=True, slots=True)
class Suited:
    """The sheet for an importer, and in sentences what had to be done for it."""

    sheet: Sheet
    told: tuple[str, ...] = ()


def suited(sheet: Sheet, habits: Habits, chord_mm: float) -> Suited:
    """The sheet as an importer of these habits reads it right: rings that both rules fill alike, straight lines where
    it knows no curves, no groups where it reads none, and bodies of no more nodes than it takes.

    What can't be made so stays as it is: reading it back tells.
    """
    told: list[str] = []
    made: dict[str, tuple[Item, ...]] = {}
    for outline in sheet.outlines():
        path = _ruled(outline.path, outline.look.even_odd, habits, chord_mm)
        path = path if habits.curves else straightened(path, chord_left_mm(outline, chord_mm))
        path = inner_first(path, chord_mm)
        bodies = _parted(path, habits.most_nodes, chord_mm)
        if len(bodies) > 1:
            told.append(
                say(
                    "{name} goes out in {count} bodies: the importer takes no more than {most} nodes in one",
                    name=called(outline),
                    count=len(bodies),
                    most=grouped(habits.most_nodes or 0),
                )
            )
        made[outline.id] = tuple(_numbered(outline, bodies))
    sheet = sheet.replaced(made)
    if not habits.groups:
        sheet = replace(sheet, items=tuple(item for item in sheet.walk() if not isinstance(item, Group)))
    return Suited(sheet, tuple(told))


def _ruled(path: Path, even_odd: bool, habits: Habits, chord_mm: float) -> Path:
    """Rings run so that the importer's own rule fills what the file's rule does."""
    if habits.fill_rule is None or (habits.fill_rule == "even-odd") == even_odd:
        return path
    nesting = ring_nesting(path, chord_mm / 10).nesting
    if nesting is None or nesting.rules_agree():
        return path
    if not even_odd:  # what nonzero fills where rings lie in rings, even-odd can't: that is for a weld
        return path
    try:
        return orient_rings(path, chord_mm / 10)
    except GeometryRefused:
        return path


def _parted(path: Path, most_nodes: int | None, chord_mm: float) -> list[Path]:
    """The path in as few bodies as hold whole pieces and no more nodes than that; a piece of more is one by itself."""
    if most_nodes is None or path.node_count <= most_nodes:
        return [path]
    bodies: list[list[Path]] = []
    room = 0
    for piece in piece_paths(path, chord_mm / 10) or [path]:
        if piece.node_count > room:
            bodies.append([])
            room = most_nodes
        bodies[-1].append(piece)
        room -= piece.node_count
    return [concat(pieces) for pieces in bodies]


def _numbered(outline: Outline, bodies: Sequence[Path]) -> list[Outline]:
    if len(bodies) == 1:
        return [replace(outline, path=bodies[0])]
    return [replace(outline, id=f"{outline.id}-body-{n}", path=path) for n, path in enumerate(bodies, 1)]
