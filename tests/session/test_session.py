"""What the window knows without Qt: the job's states, the viewport, rulers, words."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import lettering, sheet, workshop
from unkelt.recipe import Call, apply
from unkelt.session.actions import ACTIONS
from unkelt.session.dimensions import dimensions
from unkelt.session.job import Job, open_job, ticket_beside
from unkelt.session.preview import preview
from unkelt.session.viewport import Viewport, nice_step, ticks
from unkelt.session.words import original_caption, stage_caption, summary, verdict
from unkelt.survey.checks import survey

TICKET = '[size]\nwidth = "300 mm"\n'


@pytest.fixture
def job(tmp_path) -> Job:
    return Job(tmp_path / "a.svg", sheet(lettering("Sea")), workshop(TICKET))


def step(job: Job, name: str) -> Job:
    call = Call(name)
    return job.with_step(call, apply(call, job.sheet, job.workshop))


def test_undo_is_a_shorter_recipe_and_redo_brings_it_back(job):
    two = step(step(job, "outline-text"), "weld")
    assert [call.name for call in two.recipe.calls] == ["outline-text", "weld"]
    assert two.undo().undo().sheet is job.original
    assert two.undo().redo() == two
    assert two.undo().undo().undo().sheet is job.original
    assert step(two.undo(), "weld").undone == ()


def test_looking_back_changes_nothing(job):
    two = step(step(job, "outline-text"), "weld")
    assert two.look_at(0).shown is job.original
    assert two.look_at(1).shown is two.stages[0].sheet
    assert two.look_at(2).shown is two.sheet
    assert two.look_at(0).sheet is two.sheet


def test_saved_means_this_state_was_written(job, tmp_path):
    one = step(job, "outline-text")
    assert one.unsaved_changes
    saved = one.with_saved(tmp_path / "b.svg", one.stages)
    assert saved.saved
    assert not saved.unsaved_changes
    assert not saved.undo().saved
    assert saved.undo().redo().saved


def test_words(job):
    found = survey(job.sheet, job.workshop)
    assert verdict(job, found, None).words == "On hold · 1 to mend"
    assert verdict(job, None, None).state == "open"
    assert summary(found) == "2 found · 1 on hold"
    assert original_caption(job) == "1 text"
    assert stage_caption(step(job, "outline-text").stages[0]) == "3 outlines · Pacifico 3.001"
    assert job.title == "a"


def test_preview_shows_figures_proof_or_refusal(job):
    good = preview(Call("outline-text"), job.sheet, job.workshop)
    assert {row.name: (row.now, row.after) for row in good.rows}["texts"] == ("1", "0")
    assert good.proof[0] == "Curves as designed: Pacifico 3.001"
    bad = preview(Call("weld"), job.sheet, job.workshop)
    assert bad.outcome is None
    assert bad.refusal == "there is no outline to work on"


def test_ticket_beside(tmp_path):
    (tmp_path / "a.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg"/>')
    assert ticket_beside(tmp_path / "a.svg") is None
    (tmp_path / "a.toml").write_text(TICKET)
    assert ticket_beside(tmp_path / "a.svg") == tmp_path / "a.toml"
    assert open_job(tmp_path / "a.svg", workshop()).original.items == ()


def test_dimension_lines_show_ink_against_the_ticket():
    lines = dimensions((0, 0, 290, 20), workshop(TICKET).ticket)
    assert [(line.axis, line.label, line.wanted) for line in lines] == [
        ("x", "ink 290.00 mm", False), ("x", "ticket 300.00 mm", True), ("y", "ink 20.00 mm", False),
    ]  # fmt: skip
    assert (lines[1].start, lines[1].end) == (-5, 295)
    assert dimensions((0, 0, 300, 20), workshop(TICKET).ticket)[0].label == "ink 300.00 mm  ✓ ticket"
    assert dimensions(None, workshop(TICKET).ticket) == []


views = st.builds(
    Viewport,
    st.floats(50, 4000),
    st.floats(50, 4000),
    st.floats(0.01, 5000),
    st.floats(-1e4, 1e4),
    st.floats(-1e4, 1e4),
)


@given(views, st.floats(0, 4000), st.floats(0, 4000), st.floats(0.2, 5))
def test_zooming_keeps_the_place_under_the_pointer(view, x, y, factor):
    place = view.to_mm(x, y)
    after = view.zoomed(factor, x, y)
    assert after.to_px(*place) == pytest.approx((x, y), abs=1e-3 + 1e-7 * after.scale)


@given(views, st.floats(1, 1e3), st.floats(1, 1e3))
def test_fitting_shows_all_of_a_box(view, width, height):
    fitted = view.fitted((10, 20, 10 + width, 20 + height))
    x0, y0 = fitted.to_px(10, 20)
    x1, y1 = fitted.to_px(10 + width, 20 + height)
    if 0.01 < fitted.scale < 5000:
        assert min(x0, y0) >= -1e-3
        assert x1 <= view.width_px + 1e-3
        assert y1 <= view.height_px + 1e-3


@given(st.floats(-1e4, 1e4), st.floats(0.02, 2000), st.floats(60, 3000))
def test_ruler_figures_never_crowd(start, scale, extent):
    labelled = [tick.at_px for tick in ticks(start, scale, extent) if tick.label]
    assert all(b - a >= 61.9 for a, b in itertools.pairwise(labelled))
    assert len(labelled) >= extent / (62 * 2.6) - 1


def test_ruler_steps_are_one_two_five():
    assert [nice_step(least) for least in (1, 1.1, 2.1, 5.1, 0.03)] == [1, 2, 5, 10, 0.05]
    assert [tick.label for tick in ticks(0, 1, 100, 50) if tick.label] == ["0", "50", "100"]


def test_the_table_of_actions_is_sound():
    assert len({action.id for action in ACTIONS}) == len(ACTIONS)
    keys = [key for action in ACTIONS for key in action.keys]
    assert len(set(keys)) == len(keys)
