"""The habits of importing software: invented ones come with the product, each a small TOML file, and a ticket may
describe its own.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated

from unkelt.errors import InputError
from unkelt.job.habit_names import FOLDER, HABITS, PLAIN
from unkelt.job.schema import Count, PerInch, Switch, Text, Toml, Written, loads, one_of, structured
from unkelt.messages import listed, say
from unkelt.units import MM_PER_UNIT


@dataclass(frozen=True, slots=True)
class Habits:
    """What an importer does to a file. `fill_rule` and `per_inch` are None where it follows the file."""

    name: Text
    says: Text = ""
    fill_rule: Annotated[str, Written(one_of("even-odd", "nonzero"))] | None = None
    per_inch: PerInch | None = None
    """How many of the file's numbers make an inch, whatever it says of its units."""
    styles: Switch = True
    """Whether it reads style sheets and style attributes."""
    groups: Switch = True
    """Whether it reads what groups pass on."""
    most_nodes: Count | None = None
    """It takes no body of more nodes."""
    curves: Switch = True
    """Whether it knows curves; else it is given straight lines within the chord tolerance."""

    @property
    def number_mm(self) -> float:
        """What one of the file's numbers is written to mean, in mm."""
        return 1.0 if self.per_inch is None else MM_PER_UNIT["in"] / self.per_inch

    def in_words(self) -> str:
        """What it does otherwise than the specifications say; empty where that is nothing."""
        said = [
            say("{count:g} to the inch", count=self.per_inch) if self.per_inch is not None else "",
            say("{rule} only", rule=self.fill_rule) if self.fill_rule is not None else "",
            "" if self.styles else say("no styles"),
            "" if self.groups else say("no groups"),
            say("no more than {count} nodes a body", count=self.most_nodes) if self.most_nodes is not None else "",
            "" if self.curves else say("straight lines"),
        ]
        return listed(", ", filter(None, said))


@lru_cache(maxsize=1)
def known_habits() -> dict[str, Habits]:
    """Those that come with the product, by their file's name, the plain ones first."""
    return {name: parse_habits((FOLDER / f"{name}.toml").read_text(encoding="utf-8"), name) for name in HABITS}


def plain_habits() -> Habits:
    """Of an importer that does everything as the specifications say."""
    return known_habits()[PLAIN]


def parse_habits(text: str, source: str) -> Habits:
    """Habits from their TOML. Raises InputError naming the field."""
    return habits_from(loads(text, source), source)


def habits_from(table: Toml, source: str, place: str = "") -> Habits:
    """Habits from a table that stands at a place in a file. Raises InputError naming the field."""
    found = structured(table, source, Habits, place)
    if not found.name:
        raise InputError(source, "a stand-in needs a name", ".".join(filter(None, (place, "name"))))
    return found
