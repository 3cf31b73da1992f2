"""Sheets unlike the demonstration by the hundred: nothing that was received is lost without a word."""

import pytest

from tests.account.random_art import objections

AT_ONCE, SHEETS = 20, 60


@pytest.mark.parametrize("first", range(0, SHEETS, AT_ONCE))
def test_what_was_received_goes_out(first):
    most = 3 if first < 60 else 2  # few things meet in as many ways, and more are dear
    wrong = {seed: found for seed in range(first, first + AT_ONCE) if (found := objections(seed, most=most, every=20))}
    assert wrong == {}


@pytest.mark.parametrize(
    ("seed", "most"),
    [
        (1055, 6),  # translucent strokes that added up were welded, and only the fills were declared
        (1294, 6),  # a weld laid bare a line that had been hidden
        (100287, 2),  # a line that crosses itself was taken for the guide of letters beside it
        (100871, 2),
        (771319, 6),  # a dash ended 5 µm before a corner, and the renderer took the corner into it
    ],
)
def test_what_once_went_wrong_goes_right(seed, most):
    assert objections(seed, most=most, every=5) == []
