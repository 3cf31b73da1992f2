"""On a large sheet, how many nodes are enough is found for a part of it and estimated for the rest."""

import sys

import numpy as np
import pytest

from tests.builders import lettering, outline, sheet, workshop
from unkelt.lettering.faces import Shelf
from unkelt.lettering.setting import set_lettering
from unkelt.lettering.shelves import bundled_faces
from unkelt.survey.checks import find_code
from unkelt.survey.nodes_excess import nodes_excess

WORDS = ["Kittiwake", "Sandpiper", "Bobolink", "Guillemot"]
FACES = ["Pacifico", "Dancing Script", "Sacramento"]


@pytest.fixture(scope="module")
def letters():
    shelf = Shelf(bundled_faces())
    glyphs = [
        (f"{face}-{word}-{at}", glyph.path())
        for face in FACES
        for word in WORDS
        for at, glyph in enumerate(set_lettering(lettering(word, face, 40), shelf).glyphs)
    ]
    return [outline(name, path) for name, path in glyphs if len(path)]


def test_what_is_estimated_is_near_what_the_search_finds(letters, monkeypatch):
    module = sys.modules[nodes_excess.look.__module__]
    paths = [each.path for each in letters]
    could = np.array(module._could_go(letters, [0.02] * len(letters)))
    found, estimated = module._needed(paths, could, [0.02] * len(letters))
    assert not estimated
    monkeypatch.setattr(module, "SEARCHED", 500)
    monkeypatch.setattr(module, "SAMPLED", 300)
    guessed, estimated = module._needed(paths, could, [0.02] * len(letters))
    assert estimated
    assert sum(guessed) == pytest.approx(sum(found), rel=0.15)
    assert all(2 <= about <= path.node_count for path, about in zip(paths, guessed, strict=True))
    away = [abs(about - needed) for about, needed in zip(guessed, found, strict=True)]
    assert np.median(away) <= 3


def test_no_finding_says_that_hardly_any_node_is_enough(letters, monkeypatch):
    module = sys.modules[nodes_excess.look.__module__]
    monkeypatch.setattr(module, "SEARCHED", 500)
    monkeypatch.setattr(module, "SAMPLED", 300)
    for finding in find_code("nodes.excess", sheet(*letters), workshop()):
        enough = int(finding.headline.split(" are enough")[0].split()[-1])
        assert enough >= 4 * len(finding.items)
