"""What the window knows without Qt: the job's states, the viewport, rulers, words."""

import itertools
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import lettering, sheet, workshop
from tests.session.places import views
from unkelt.demo import make_demo
from unkelt.job.beside import ticket_beside
from unkelt.job.ticket import read_ticket
from unkelt.mending import mend
from unkelt.recipe import Call, apply
from unkelt.session.actions import ACTIONS
from unkelt.session.bench import likely, matching, offers_by_hand
from unkelt.session.dimensions import dimensions
from unkelt.session.entries import ledger
from unkelt.session.job import Job, open_job
from unkelt.session.preview import preview
from unkelt.session.reading import INCH
from unkelt.session.sentences import (
    Verdict,
    given_value,
    original_caption,
    saved_words,
    stage_caption,
    summary,
    verdict,
)
from unkelt.session.states import lettering_stage
from unkelt.session.viewport import nice_step, ticks
from unkelt.steps.steps import STEPS
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
    assert step(two.undo(), "weld").future == ()


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


def test_released_means_this_state_was_handed_over(job, tmp_path):
    one = step(job, "outline-text")
    assert verdict(one, [], None).words == "Ready to save"
    released = one.with_released(tmp_path / "a-r1", one.stages, one.ticket)
    assert verdict(released, [], None) == Verdict("clean", "Clean and released")
    assert saved_words(released) == "released as a-r1"
    assert not released.unsaved_changes
    assert released.undo().redo().released
    assert not released.undo().released
    other = replace(released.workshop, ticket=replace(released.ticket, name="another"))
    assert not replace(released, workshop=other).released


def test_words(job):
    found = survey(job.sheet, job.workshop)
    assert verdict(job, found, None).words == "On hold: 1 to mend"
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
    assert ticket_beside(tmp_path / "a.svg").path is None
    (tmp_path / "a.toml").write_text('[[step]]\nname = "weld"\n')
    assert "a.toml beside it is a recipe" in ticket_beside(tmp_path / "a.svg").words
    (tmp_path / "a.toml").write_text(TICKET)
    assert ticket_beside(tmp_path / "a.svg").path == tmp_path / "a.toml"
    assert open_job(tmp_path / "a.svg", workshop()).original.items == ()


def test_dimension_lines_show_ink_against_the_ticket():
    lines = dimensions((0, 0, 290, 20), workshop(TICKET).ticket)
    assert [(line.axis, line.label, line.wanted) for line in lines] == [
        ("x", "ink 290.00 mm", False), ("x", "ticket 300.00 mm", True), ("y", "ink 20.00 mm", False),
    ]  # fmt: skip
    assert (lines[1].start, lines[1].end) == (-5, 295)
    assert dimensions((0, 0, 300, 20), workshop(TICKET).ticket)[0].label == "ink 300.00 mm  ✓ ticket"
    assert dimensions(None, workshop(TICKET).ticket) == []


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
    assert [tick.label for tick in ticks(0, 1, 100, apart_px=50) if tick.label] == ["0", "50", "100"]
    inches = [(tick.at_px, tick.label) for tick in ticks(0, 2, 200, INCH) if tick.label]  # 2 px a mm: 50.8 px an inch
    assert inches == [(0, "0"), (pytest.approx(2 * 50.8), "2"), (pytest.approx(4 * 50.8), "4")]


def test_the_table_of_actions_is_sound():
    assert len({action.id for action in ACTIONS}) == len(ACTIONS)
    keys = [key for action in ACTIONS for key in action.keys]
    assert len(set(keys)) == len(keys)


def test_a_step_put_in_the_middle_takes_the_later_ones_again(tmp_path):
    make_demo(tmp_path)
    job = open_job(tmp_path / "sea-thrift.svg", workshop(read_ticket(tmp_path / "sea-thrift.toml")))
    job = job.with_stages(tuple(mend(job.sheet, job.workshop)))
    item = job.sheet.outlines()[0].id
    assert lettering_stage(job, item) == 0
    corrected, skipped = job.with_step_at(0, Call("set-text", options={"text": "Sea Swift"}))
    assert skipped == ()
    assert [s.call.name for s in corrected.stages] == ["set-text", *[s.call.name for s in job.stages]]
    assert corrected.sheet.outlines()[0].letters == "SeaSwift"
    assert job.sheet.outlines()[0].letters == "SeaThrift"  # the job before is what it was
    assert corrected.undo().stages == job.stages  # a change in the middle is taken back at once
    assert job.undo().undo().recipe.calls == job.recipe.calls[:-2]


def test_a_recipe_edited_in_its_middle_is_taken_again_from_there(tmp_path):
    make_demo(tmp_path)
    job = open_job(tmp_path / "sea-thrift.svg", workshop())
    for call in (Call("outline-text"), Call("thicken", ("name-9",), options={"amount": "1 mm"}), Call("weld")):
        job = job.with_step(call, apply(call, job.sheet, job.workshop))
    thicker = job.with_changed(1, Call("thicken", ("name-9",), options={"amount": "2 mm"}))
    assert thicker.stages[0] is job.stages[0]  # kept, not taken again
    assert thicker.stages[1].outcome.evidence != job.stages[1].outcome.evidence
    without = thicker.with_changed(1, None)
    assert [s.call.name for s in without.stages] == ["outline-text", "weld"]
    # Moved before the text is outlined, thicken finds nothing to work on: stale, but still there to be moved back.
    stale = job.with_moved(1, -1)
    assert [(s.call.name, s.outcome is None) for s in stale.stages] == [
        ("thicken", True),
        ("outline-text", False),
        ("weld", False),
    ]
    assert "no longer on the sheet" in stale.stages[0].skipped
    assert stage_caption(stale.stages[0]) == "no longer applies"
    assert [c.name for c in stale.recipe.calls] == ["outline-text", "weld"]
    back = stale.with_moved(0, 1)
    assert [s.outcome is None for s in back.stages] == [False] * 3
    assert back.sheet == job.sheet
    assert stale.undo().stages == job.stages
    assert stale.undo().redo().stages == stale.stages
    assert job.with_moved(0, -1) is job


def test_a_later_step_that_no_longer_applies_is_left_out_and_said(tmp_path):
    make_demo(tmp_path)
    job = open_job(tmp_path / "sea-thrift.svg", workshop())
    for call in (Call("outline-text"), Call("thicken", ("name-9",), options={"amount": "1 mm"})):
        job = job.with_step(call, apply(call, job.sheet, job.workshop))
    corrected, skipped = job.with_step_at(0, Call("set-text", options={"text": "Tern"}))
    assert "“name-9” is no longer on the sheet" in skipped[0]
    assert [s.call.name for s in corrected.stages] == ["set-text", "outline-text"]


def test_the_ledger_says_what_is_there_and_offers_what_can_be_done(tmp_path):
    make_demo(tmp_path)
    sheet = open_job(tmp_path / "berth-12.svg", workshop()).sheet
    entries = ledger(sheet, workshop())
    nodes = str(sheet.outlines()[0].path.node_count)
    assert (entries[0].id, entries[0].what, entries[0].nodes) == ("tag", "1 piece, 1 counter", nodes)
    assert entries[0].size.startswith("60.0 ×")
    assert "thicken" in possible(entries)
    assert "set-text" not in possible(entries)
    assert {"add-lettering", "resize", "fit-page", "state-units"} <= possible([])
    text = ledger(open_job(tmp_path / "sea-thrift.svg", workshop()).sheet, workshop())
    assert text[0].name == "“Sea Thrift”"
    assert "set-text" in possible(text)
    assert all(offer.why_not for offer in offers_by_hand(text) if offer.name not in possible(text))
    assert likely(text, ())[0] == "outline-text"


def possible(entries):
    return {offer.name for offer in offers_by_hand(entries) if not offer.why_not}


def test_a_step_is_found_by_its_words_or_what_it_does():
    offers = offers_by_hand([])
    assert [offer.name for offer in matching(offers, "set circle")] == ["set-on-guide"]
    assert "thicken" in [offer.name for offer in matching(offers, "BOLDER")]
    assert matching(offers, "sail") == []


@pytest.mark.parametrize(
    ("step", "option", "written", "given"),
    [
        ("thicken", "amount", "0.4", "0.4 mm"),
        ("thicken", "amount", "3 pt", "3 pt"),
        ("thicken", "limit", "2,5", 2.5),
        ("thicken", "limit", "much", "much"),
        ("thicken", "close_counters", "yes", True),
        ("set-face", "weight", "700", 700),
        ("set-text", "text", "12", "12"),
        ("set-text", "text", "", None),
    ],
)
def test_fields_are_read_as_people_write_them(step, option, written, given):
    parameter = next(p for p in STEPS[step].parameters if p.name == option)
    assert given_value(parameter, written) == given
