"""How far lines moved since they were received is said truly, with what steps joined on purpose beside it."""

from pathlib import Path

import pytest

from tests.builders import outline, sheet, workshop
from unkelt.geometry.path import polygon
from unkelt.recipe import Call, Recipe, run
from unkelt.verdict.case import Case
from unkelt.verdict.moved import since_received


@pytest.mark.parametrize(("gap", "said"), [(0.12, "no line moved, but for"), (0.0, "no line moved")])
def test_joined_ends_are_told_beside_what_moved(gap, said):
    received = sheet(outline("a", polygon((0, 0), (30, 0), (30, 20), (0, 20), (0, gap), closed=False)))
    stages = tuple(run(Recipe((Call("join-ends"),)), received, workshop()))
    assert [stage.refused for stage in stages] == [None]
    words = since_received(Case(Path("a.svg"), received, workshop(), stages))
    assert words.startswith(said)
    assert ("0.060 mm" in words) is (gap > 0)
