"""The jobs that are made around lettering: by their shipped recipes, and again with another name."""

from dataclasses import replace

import pytest
import shapely

from tests.builders import SHELF
from unkelt.demo.compositions import NAMES, composition_files
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.region import region
from unkelt.job.ticket import parse_ticket
from unkelt.job.workshop import Workshop
from unkelt.proof.proof import prove
from unkelt.recipe import Recipe, parse_recipe, run
from unkelt.sheet.model import Outline, Reads, Sheet
from unkelt.survey.checks import survey
from unkelt.survey.finding import Level

OTHER = {
    "film-name": ["Sandpiper"],
    "big-letter": ["Bobolink"],
    "berth-tag": ["8", "112"],
    "fascia-name": ["KITTIWAKE", "SEA MILL"],
    "life-ring": ["Dunlin"],
}


def made(name: str, words: str | None) -> tuple[Sheet, Workshop, list[str | None]]:
    data, ticket, steps = composition_files()[name]
    recipe = parse_recipe(steps)
    if words is not None:
        recipe = Recipe(
            tuple(
                replace(call, options={"text": words[0] if call.items == ("initial",) else words})
                if call.name == "set-text"
                else call
                for call in recipe.calls
            )
        )
    workshop = Workshop(parse_ticket(ticket), SHELF)
    stages = run(recipe, parse_svg(data, name), workshop)
    return stages[-1].sheet, workshop, [stage.refused for stage in stages]


def area(outline: Outline) -> shapely.Geometry:
    return region(outline.path, outline.look.even_odd or outline.look.fill is None, 0.005)


CASES = [(name, None) for name in NAMES] + [(name, words) for name, list_ in OTHER.items() for words in list_]


@pytest.mark.parametrize(("name", "words"), CASES)
def test_made_from_its_live_text_and_again_with_another_name(name, words, tmp_path):
    after, workshop, refused = made(name, words)
    assert refused == [None] * len(refused)
    holds = [f for f in survey(after, workshop) if f.level is Level.HOLD]
    # The fascia's bridges are open on purpose, which a person accepts, with the reason.
    assert [(f.code, round(f.value)) for f in holds] == ([("path.open", 14)] if name == "fascia-name" else [])
    assert not after.letterings()
    (tmp_path / "out.svg").write_bytes(write_svg(after))
    assert prove(tmp_path / "out.svg", workshop.ticket).verdict == ("hold" if holds else "clean")
    items = {item.id: item for item in after.outlines()}
    items |= {item.origin.id: item for item in after.outlines() if item.origin}
    if name == "film-name":
        # Every point of the name lies inside its backing, and the backing's edge an eighth of an inch from it.
        word, backing = area(items["name"]), area(items["backing"])
        assert backing.contains(word)
        assert {outline.reads for outline in after.outlines()} <= {Reads.BACKWARDS, Reads.EITHER}
        assert items["mirrored-mark"].look.fill != items["backing"].look.stroke  # which is not cut
        assert backing.boundary.distance(word) == pytest.approx(3.175, abs=0.03)
    elif name == "big-letter":
        # The counter-part fits inside with the clearance all round.
        assert area(items["initial-1"]).distance(area(items["name"])) == pytest.approx(3, abs=0.03)
    elif name == "berth-tag":
        (tag,) = area(items["border"]).geoms
        assert len(tag.interiors) == 1
        assert shapely.Polygon(tag.exterior).contains(area(items["frame"]))
        assert shapely.Polygon(tag.interiors[0]).area == pytest.approx(3.14159 * (5.334 / 2) ** 2, rel=3e-3)
    elif name == "fascia-name":
        (frame,) = after.outlines()
        ends = frame.path.end_gaps_mm()[~frame.path.closed]
        assert len(ends) == 2  # the bridges of the two ends are there as they were
        assert sorted(item.id for item in after.outlines()) == ["top"]
    else:
        copies = [item for item in after.outlines() if item.origin]
        assert len(copies) == 3
        middles = shapely.MultiPoint([area(item).centroid for item in copies])
        assert middles.centroid.distance(area(items["cover"]).centroid) < 0.01
