"""All readers, briefly, on damaged input: a sentence or a sheet, never another exception."""

import logging
import random

import pytest

from tests.fuzz import TARGETS, changed, seeds

ROUNDS = {"svg": 400, "pdf": 300, "dxf": 60, "path": 1500, "ticket": 400, "recipe": 400}


@pytest.mark.parametrize("name", TARGETS)
def test_damaged_input_ends_in_a_sentence(name):
    logging.getLogger("ezdxf").setLevel(logging.CRITICAL)
    chance = random.Random(7)
    starts = seeds(name)
    for _ in range(ROUNDS[name]):
        TARGETS[name](changed(chance.choice(starts), chance))
