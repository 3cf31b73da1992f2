"""What a DXF file says, taken apart into its entities with their group codes; no library that writes DXF has a part in
it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

Pair = tuple[int, str]


@dataclass(slots=True)
class Entity:
    """One entity: its kind, and its group codes with their values in the file's order; the vertices of an old polyline,
    too.
    """

    kind: str
    pairs: list[Pair]
    vertices: list[Entity] = field(default_factory=list)

    def says(self, code: int) -> bool:
        """Whether it has a group code."""
        return any(at == code for at, _ in self.pairs)

    def text(self, code: int, otherwise: str = "") -> str:
        """The value of the first group of a code."""
        return next((value for at, value in self.pairs if at == code), otherwise)

    def number(self, code: int, otherwise: float = 0.0) -> float:
        """The same, as a number. Raises ValueError where it is none."""
        said = self.text(code)
        return float(said) if said else otherwise

    def numbers(self, code: int) -> list[float]:
        """All values of a code. Raises ValueError where one is no number."""
        return [float(value) for at, value in self.pairs if at == code]


@dataclass(slots=True)
class Document:
    """What a file says, taken apart. Names of layers and blocks are in small letters: DXF doesn't tell them apart."""

    header: dict[str, list[Pair]] = field(default_factory=dict)
    layers: dict[str, Entity] = field(default_factory=dict)
    blocks: dict[str, list[Entity]] = field(default_factory=dict)
    bases: dict[str, tuple[float, float]] = field(default_factory=dict)
    entities: list[Entity] = field(default_factory=list)
    group_of: dict[str, int] = field(default_factory=dict)
    """The group that an entity is of, by its handle."""


def taken_apart(data: bytes) -> Document:
    """The parts of an ASCII file. Raises ValueError where a group code is none."""
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")  # other characters end no line in DXF
    pairs = [(int(code), value.strip()) for code, value in zip(lines[::2], lines[1::2], strict=False)]
    document, section = Document(), ""
    order: dict[str, str] = {}
    block: str | None = None
    for entity in _entities(pairs):
        if entity.kind == "SECTION":
            section = entity.text(2)
            if section == "HEADER":
                document.header = _header(entity.pairs)
        elif section == "TABLES" and entity.kind == "LAYER":
            document.layers[entity.text(2).lower()] = entity
        elif section == "BLOCKS":
            if entity.kind == "BLOCK":
                block = entity.text(2).lower()
                document.blocks[block] = []
                document.bases[block] = entity.number(10), entity.number(20)
            elif block is not None and entity.kind != "ENDBLK":
                document.blocks[block].append(entity)
        elif section == "ENTITIES" and entity.kind != "ENDSEC" and entity.text(67) != "1":  # which is on paper
            document.entities.append(entity)
        elif section == "OBJECTS" and entity.kind == "SORTENTSTABLE":
            order |= _order(entity)
        elif section == "OBJECTS" and entity.kind == "GROUP":
            number = len(document.group_of) + 1
            document.group_of |= {value: number for code, value in entity.pairs if code == 340}
    document.entities = _with_vertices(document.entities)
    if order:
        document.entities.sort(key=lambda each: int(order.get(each.text(5), each.text(5)), 16) or LAST)
    document.blocks = {name: _with_vertices(held) for name, held in document.blocks.items()}
    return document


LAST = 1 << 128
"""No handle is so large; 0 stands for what is painted last."""


def _order(table: Entity) -> dict[str, str]:
    """By the handles of entities, the handles that they are painted in the order of."""
    order, of = {}, ""
    for code, value in table.pairs:
        if code == 331:
            of = value
        elif code == 5 and of:  # before the first, it is the table's own
            order[of] = value
    return order


def _entities(pairs: Sequence[Pair]) -> Iterator[Entity]:
    """Everything that begins with a group code 0."""
    entity: Entity | None = None
    for code, value in pairs:
        if code == 0:
            if entity is not None:
                yield entity
            entity = Entity(value, [])
        elif entity is not None:
            entity.pairs.append((code, value))
    if entity is not None:
        yield entity


def _header(pairs: Sequence[Pair]) -> dict[str, list[Pair]]:
    found: dict[str, list[Pair]] = {}
    name = ""
    for code, value in pairs:
        if code == 9:
            name = value
        else:
            found.setdefault(name, []).append((code, value))
    return found


def _with_vertices(entities: Sequence[Entity]) -> list[Entity]:
    """Old polylines are followed by their vertices, up to a SEQEND."""
    result: list[Entity] = []
    for entity in entities:
        if entity.kind == "VERTEX" and result and result[-1].kind == "POLYLINE":
            result[-1].vertices.append(entity)
        elif entity.kind != "SEQEND":
            result.append(entity)
    return result
