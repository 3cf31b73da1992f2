"""Lines of text that are one paragraph, which PDF doesn't say."""

from __future__ import annotations

from unkelt.sheet.model import Group, Item, Lettering


def paragraphs(items: tuple[Item, ...]) -> tuple[Item, ...]:
    """Neighbouring lines of text in one face and size, one below the other with even leading, as groups."""
    result: list[Item] = []
    block: list[Lettering] = []

    def close() -> None:
        if len(block) > 1:
            result.append(Group(f"paragraph-{block[0].id}", tuple(block), block[0].text[:40]))
        else:
            result.extend(block)
        block.clear()

    for item in items:
        if isinstance(item, Lettering):
            if block and not _continues(block, item):
                close()
            block.append(item)
        else:
            close()
            result.append(item)
    close()
    return tuple(result)


def _continues(block: list[Lettering], line: Lettering) -> bool:
    last, first = block[-1], block[0]
    a, b = last.runs[0], line.runs[0]
    if a.face != b.face or abs(a.size_mm - b.size_mm) > 0.01 * a.size_mm or last.placement[:4] != line.placement[:4]:
        return False
    step = line.placement.dy - last.placement.dy
    before = block[1].placement.dy - first.placement.dy if len(block) > 1 else step
    return 0.8 * a.size_mm <= step <= 2.5 * a.size_mm and abs(step - before) <= 0.05 * a.size_mm
