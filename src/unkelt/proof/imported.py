"""What importing software is left with after reading a file."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from unkelt.geometry.path import Path
from unkelt.sheet.appearance import DEFAULT_STROKE_MM, Appearance, Operation
from unkelt.sheet.model import Group, Item, Outline, Reads, Scale, Sheet, Source


@dataclass(frozen=True, slots=True)
class Held:
    """A group that holds a body, by its name in the file; a layer only lies around it."""

    name: str
    is_layer: bool = False


@dataclass(frozen=True, slots=True)
class Body:
    """One compound path as imported: its curves in mm, its paints as "#rrggbb" or None, its fill rule.

    `groups` hold it, outermost first. `pen` is the number of a plotter's pen, 0 where there is none.
    """

    path: Path
    fill: str | None
    stroke: str | None
    even_odd: bool
    width_mm: float = DEFAULT_STROKE_MM
    fill_opacity: float = 1.0
    stroke_opacity: float = 1.0
    shown: bool = True
    name: str = ""
    groups: tuple[Held, ...] = ()
    reads: Reads = Reads.UNKNOWN
    pen: int = 0

    @property
    def look(self) -> Appearance:
        """How it is painted."""
        return Appearance(
            fill=self.fill,
            stroke=self.stroke,
            stroke_width_mm=self.width_mm,
            fill_opacity=self.fill_opacity,
            stroke_opacity=self.stroke_opacity,
            even_odd=self.even_odd,
            visible=self.shown,
        )


@dataclass(frozen=True, slots=True)
class Imported:
    """What is left of a file after importing: page size in mm, bodies, and how many texts and pictures were ignored.

    `sure` is whether the file says how large it is; `number_mm` what one of its numbers means, in mm, where the file
    and not its format says it. `unread` are the kinds of what can be seen in the file and the reader can't draw.
    """

    page_mm: tuple[float, float]
    bodies: tuple[Body, ...]
    text_left: int
    pictures: int = 0
    kind: str = "SVG"
    sure: bool = True
    number_mm: float | None = None
    unread: tuple[str, ...] = ()


PENS = {1: Operation.CUT, 2: Operation.SCORE, 3: Operation.ENGRAVE}
"""What a plotter's pens stand for."""


def as_sheet(found: Imported, key: Mapping[str, Operation] | None = None) -> Sheet:
    """What was imported, as a sheet: one outline a body, in its groups. A plotter's pens get the key's colours."""
    outlines = [_outline(number, body, key or {}) for number, body in enumerate(found.bodies, 1)]
    items = _grouped(list(zip(outlines, [body.groups for body in found.bodies], strict=True)), 0, "group")
    return Sheet(found.page_mm, items, Source(kind=found.kind, scale=Scale(found.sure)))


def _outline(number: int, body: Body, key: Mapping[str, Operation]) -> Outline:
    look = body.look
    if body.pen and key:
        meant = PENS.get(body.pen)
        look = replace(
            look, stroke=next((colour for colour, operation in key.items() if operation is meant), look.stroke)
        )
    return Outline(f"body-{number}", body.path, look, body.name or None, reads=body.reads)


def _grouped(held: Sequence[tuple[Outline, tuple[Held, ...]]], depth: int, name: str) -> tuple[Item, ...]:
    """Outlines in their groups from a depth on; what a group holds stands together, as in the file."""
    items: list[Item] = []
    run: list[tuple[Outline, tuple[Held, ...]]] = []

    def close() -> None:
        if run:
            group = run[0][1][depth]
            own = f"{name}-{len(items) + 1}"
            items.append(Group(own, _grouped(list(run), depth + 1, own), group.name, group.is_layer))
            run.clear()

    for outline, groups in held:
        if len(groups) <= depth:
            close()
            items.append(outline)
            continue
        if run and run[0][1][depth] != groups[depth]:
            close()
        run.append((outline, groups))
    close()
    return tuple(items)
