"""All readers, briefly, on damaged input: a sentence or a sheet that can be surveyed, never another exception."""

import contextlib
import logging
import math
import os
import random

import pytest
from hypothesis import HealthCheck, given, settings

from tests.builders import workshop
from tests.fuzz import CORPUS, TARGETS, changed, seeds
from tests.structures import DXF, PDF, SVG
from unkelt.errors import InputError
from unkelt.formats.formats import read_sheet
from unkelt.survey.checks import survey

ROUNDS = {"svg": 300, "pdf": 200, "dxf": 60, "path": 1500, "ticket": 400, "recipe": 400, "working": 60, "list": 800}
EXAMPLES = int(os.environ.get("FUZZ_EXAMPLES", "150"))  # set it higher for a long run
GRAMMARS = {".svg": SVG, ".dxf": DXF, ".pdf": PDF}


@pytest.fixture(autouse=True)
def quiet():
    logging.getLogger("ezdxf").setLevel(logging.CRITICAL)


@pytest.mark.parametrize("name", TARGETS)
def test_damaged_input_ends_in_a_sentence(name):
    chance = random.Random(7)
    starts = seeds(name)
    for data in starts:
        TARGETS[name](data)
    for _ in range(ROUNDS[name]):
        TARGETS[name](changed(chance.choice(starts), chance))


@pytest.mark.parametrize(
    "past", [p for p in sorted(CORPUS.iterdir()) if f".{p.name.split('-')[0]}" in GRAMMARS], ids=lambda p: p.name
)
def test_what_once_failed_can_be_read_and_surveyed(past, tmp_path):
    path = tmp_path / f"a.{past.name.split('-')[0]}"
    path.write_bytes(past.read_bytes())
    with contextlib.suppress(InputError):
        survey(read_sheet(path), workshop())


@pytest.mark.parametrize("ending", GRAMMARS)
def test_odd_but_well_formed_input_can_be_read_and_surveyed(ending, tmp_path):
    path, tools = tmp_path / f"a{ending}", workshop()

    @settings(
        max_examples=EXAMPLES, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large], deadline=None
    )
    @given(GRAMMARS[ending])
    def run(data):
        path.write_bytes(data)
        with contextlib.suppress(InputError):
            sheet = read_sheet(path)
            assert all(map(math.isfinite, sheet.page_mm))
            survey(sheet, tools)

    run()
