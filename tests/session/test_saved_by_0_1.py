"""What version 0.1 kept still opens. The files under `corpus/saved-by-0.1` were written by that version."""

from dataclasses import asdict
from pathlib import Path

from tests.builders import SHELF
from unkelt.job.workshop import Workshop
from unkelt.recipe import read_recipe, run
from unkelt.session.settings import read_settings
from unkelt.session.shop import Shop
from unkelt.session.working_file import open_working

KEPT = Path(__file__).parents[1] / "corpus" / "saved-by-0.1"


def test_a_working_file_opens_with_its_text_and_all_its_steps():
    job, words = open_working(KEPT / "sea-thrift.unkelt", SHELF)
    assert not words
    assert [stage.call.name for stage in job.stages] == [call.name for call in read_recipe(KEPT / "recipe.toml").calls]
    assert all(stage.outcome for stage in job.stages)
    assert [text.text for text in job.original.letterings()] == ["Sea Thrift"]
    assert job.ticket.width_mm == 900.0
    box = job.sheet.drawn_box()
    assert abs(box[2] - box[0] - 900) < 0.01


def test_a_recipe_runs_and_comes_to_the_same_sheet():
    job, _ = open_working(KEPT / "sea-thrift.unkelt", SHELF)
    stages = run(read_recipe(KEPT / "recipe.toml"), job.original, Workshop(job.ticket, SHELF))
    assert stages[-1].sheet.outlines()[0].path == job.sheet.outlines()[0].path


def test_settings_and_tickets_of_the_shop_are_as_they_were():
    assert asdict(read_settings(KEPT / "settings.toml")) == {
        "theme": "dark",
        "unit": "in",
        "snap": "no",
        "text": "130",
        "screens": {"Quay 24": 3.78},
    }
    shop = Shop(KEPT / "tickets")
    assert shop.names() == ["transom"]
    ticket = shop.ticket("transom")
    assert (ticket.name, ticket.width_mm, ticket.machine.profile) == ("Kittiwake transom", 900.0, "film-knife")
