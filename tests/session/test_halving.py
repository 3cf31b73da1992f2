"""A step that is refused for some of several findings is taken for the others, in few tries."""

from types import SimpleNamespace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from unkelt import recipe
from unkelt.errors import StepRefused


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
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(recipe, "apply", apply)
        taken = recipe._take_all("bind", "compound.loose", findings, frozenset(), None, refused)
    assert {items for (_, items) in refused} == {(each,) for each in bad}
    done = taken[-1].sheet if taken else set()
    assert done == {f"i{k}" for k in range(count)} - bad
    assert len(tries) <= 2 + len(bad) * 2 * (count.bit_length() + 1)
