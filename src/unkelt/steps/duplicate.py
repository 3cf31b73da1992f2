"""`duplicate`: once more what is chosen, a little aside."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fontTools.misc.transform import Transform

from unkelt.account.changes import Reason
from unkelt.job.workshop import Workshop
from unkelt.messages import say_count
from unkelt.sheet.model import Sheet
from unkelt.steps.copies import chosen_to_copy, with_copy
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Field, On, Outcome, Purpose, step


@dataclass(frozen=True, kw_only=True)
class Duplicated(Evidence):
    """How many items there are once more."""

    copies: int

    def caption(self) -> str:
        return say_count("Duplicated {count} item", "Duplicated {count} items", self.copies)


@step("duplicate", "Duplicate", on=On.ITEMS, purpose=Purpose.LAYOUT, redraws=Reason.MADE)
def duplicate(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    right: Annotated[
        float, "how far to the right of the original; negative to the left", Field("Right", first=True)
    ] = 5.0,
    down: Annotated[float, "how far below the original; negative above", Field("Down", first=True)] = 5.0,
) -> Outcome:
    """Copies the named items, or all items, once. Live text stays live. The copy lies above everything else, and is
    exactly like the original.
    """
    chosen, _ = chosen_to_copy("duplicate", sheet, items, workshop)
    after = with_copy(sheet, chosen, Transform(1, 0, 0, 1, right, down), named=True)
    return Outcome(after, tuple(item.id for item in chosen), Duplicated(copies=len(chosen)))
