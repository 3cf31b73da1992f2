"""What goes into a file: live text that no SVG text can look like goes out as outlines, and its name is told."""

from __future__ import annotations

from unkelt.errors import StepRefused
from unkelt.formats.svg.unsayable import unsayable
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.model import Lettering, Sheet
from unkelt.sheet.naming import called
from unkelt.steps.outline_text import outline_text


def outgoing(sheet: Sheet, workshop: Workshop) -> Sheet:
    """The sheet as it can be written, with text outlined that SVG has no words for. Text that can't be outlined stays,
    and whoever writes it says why it can't be written.
    """
    for text in _without_words(sheet):
        try:
            sheet = outline_text.function(sheet, (text.id,), workshop).sheet
        except StepRefused:
            continue
    return sheet


def outlined_to_save(sheet: Sheet) -> tuple[str, ...]:
    """A sentence for each text that is saved as outlines, with the reason."""
    return tuple(
        say("{name} was saved as outlines: {reason}", name=called(text), reason=unsayable(text))
        for text in _without_words(sheet)
    )


def _without_words(sheet: Sheet) -> list[Lettering]:
    return [text for text in sheet.letterings() if unsayable(text)]
