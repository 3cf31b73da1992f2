"""A step that is refused for some of several findings is taken for the others, in few tries."""

from dataclasses import replace
from types import SimpleNamespace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import moved, outline, sheet, square, workshop
from unkelt import mending
from unkelt.errors import StepRefused
from unkelt.geometry.path import polygon
from unkelt.recipe import apply
from unkelt.sheet.appearance import Appearance
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Outcome


@given(st.integers(1, 60), st.sets(st.integers(0, 59), max_size=4))
def test_few_that_cannot_be_cured_stop_none_of_the_others(count, bad):
    bad = {f"i{k}" for k in bad if k < count}
    findings = [SimpleNamespace(items=(f"i{k}",)) for k in range(count)]
    tries = []

    def apply(call, sheet, workshop):
        tries.append(call)
        items = set(call.items) or {item for finding in findings for item in finding.items}
        if items & bad:
            raise StepRefused("bind", "one of these can't be bound")
        return SimpleNamespace(sheet=sheet | items)

    refused = {}
    untried = SimpleNamespace(known=lambda *_: {}, note=lambda *_: None, workshop=None)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(mending, "apply", apply)
        taken = mending._take_all("bind", "compound.loose", findings, frozenset(), untried, refused, only=False)
    assert {items for (_, items) in refused} == {(each,) for each in bad}
    done = taken[-1].sheet if taken else set()
    assert done == {f"i{k}" for k in range(count)} - bad
    assert len(tries) <= 2 + len(bad) * 2 * (count.bit_length() + 1)


def test_what_was_refused_is_tried_again_only_after_something_near_it_changed():
    """Two reds with a blue between them can't be welded; far away nodes are merged, which takes another round."""
    red, blue = Appearance(fill="#cc0000"), Appearance(fill="#0000cc")
    stack = [
        replace(outline("a", square(20, 10, 10)), look=red),
        replace(outline("b", square(20, 20, 20)), look=blue),
        replace(outline("c", square(20, 28, 28)), look=red),
    ]
    crowded = outline("d", polygon((200, 10), (230, 10), (230, 10.001), (230, 40), (200, 40)))
    calls = []

    def counted(call, on, bench):
        calls.append(call.name)
        return apply(call, on, bench)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(mending, "apply", counted)
        stages = mending.mend(sheet(*stack, crowded), workshop())
    assert "merge-nodes" in calls
    assert calls.count("weld") == 1  # in the first round alone
    assert [stage.call.items for stage in stages if stage.refused] == [("a", "c")]


def test_what_is_found_all_the_same_is_not_done_again_and_again():
    path = polygon((200, 10), (230, 10), (230, 10.001), (230, 40), (200, 40))
    done = []

    def moves_a_little(call, on, bench):
        if call.name != "merge-nodes":
            return apply(call, on, bench)
        done.append(call)
        return Outcome(on.replaced({"d": (outline("d", moved(path, 0.001 * len(done))),)}), ("d",), Evidence())

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(mending, "apply", moves_a_little)
        stages = mending.mend(sheet(outline("d", path)), workshop())
    assert len(done) == len(stages) == 1


@pytest.mark.parametrize(("moved_to", "again"), [(25.0, True), (300.0, False)])
def test_a_step_comes_to_the_same_as_long_as_nothing_near_changes(moved_to, again):
    (near, other) = outline("near", square(20, 10, 10)), outline("other", square(5, 200, 200))
    before = sheet(near, other)
    finding = SimpleNamespace(items=("near",))
    tries = mending._Tries(workshop())
    tries.note("weld", [finding], before, "because")
    assert tries.known("weld", [finding], before) == {("near",): "because"}
    assert not tries.known("bind", [finding], before)
    after = sheet(near, outline("other", square(5, moved_to, moved_to)))
    assert bool(tries.known("weld", [finding], after)) is not again
