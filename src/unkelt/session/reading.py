"""How lengths are read on the table: in millimetres or in inches, by the person's choice."""

from __future__ import annotations

from dataclasses import dataclass

from unkelt.language import figures
from unkelt.units import MM_PER_UNIT


@dataclass(frozen=True, slots=True)
class Unit:
    """`mm` of it are a millimetre each; `places` are the decimals of a dimension."""

    name: str
    mm: float
    places: int

    def say(self, length_mm: float, finer: int = 0, *, bare: bool = False) -> str:
        """A length for people, with so many decimals more (or fewer) than a dimension has."""
        return figures(f"{length_mm / self.mm:.{self.places + finer}f}") + ("" if bare else f" {self.name}")

    def say_area(self, area_mm2: float) -> str:
        """An area in the square of the unit, without its name."""
        return figures(f"{area_mm2 / self.mm**2:.{0 if self.mm == 1 else self.places}f}")

    def written(self, length_mm: float) -> str:
        """A length as a person would write it into a field, without needless digits."""
        return f"{round(length_mm / self.mm, self.places) + 0.0:g} {self.name}"


MM = Unit("mm", 1.0, 2)
INCH = Unit("in", MM_PER_UNIT["in"], 3)
UNITS = {unit.name: unit for unit in (MM, INCH)}
