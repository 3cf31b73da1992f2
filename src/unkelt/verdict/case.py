"""What is judged: a file as it was received, and what was done to it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from unkelt.formats.files import read_bytes
from unkelt.job.workshop import Workshop
from unkelt.sheet.model import Sheet

if TYPE_CHECKING:
    from unkelt.recipe import Stage

Refusals = Mapping[tuple[str, tuple[str, ...]], str]
"""Why a step was refused, by its name and the items that it was to work on."""


@dataclass(frozen=True)
class Case:
    """What is judged: a file as it was received, and what was done to it.

    `received` are the file's bytes where they aren't to be read from `source`; empty where it was made from nothing.
    `accepted` are findings accepted as they are, by key, each with its reason.
    """

    source: Path
    original: Sheet
    workshop: Workshop
    stages: tuple[Stage, ...] = ()
    accepted: Mapping[str, str] = field(default_factory=dict)
    refusals: Refusals = field(default_factory=dict)
    received: bytes | None = None

    @property
    def sheet(self) -> Sheet:
        """The sheet as it stands after the steps."""
        return self.stages[-1].sheet if self.stages else self.original

    @property
    def done(self) -> tuple[Stage, ...]:
        """The steps that were taken."""
        return tuple(stage for stage in self.stages if stage.outcome is not None)

    @property
    def refused(self) -> tuple[str, ...]:
        """What was to be done and was not, and why, in sentences."""
        return tuple(stage.refused for stage in self.stages if stage.refused)

    @property
    def own_file(self) -> Path | None:
        """The file that it came from, which is never written over; None where it was made from nothing."""
        return None if self.received == b"" else self.source

    @property
    def data(self) -> bytes:
        """The file as received. Raises InputError where it can no longer be read."""
        return read_bytes(self.source) if self.received is None else self.received
