"""The house is in order: the generated pages are current, every step and check is listed, no test needs the network."""

import importlib.util
from pathlib import Path

import pytest

import unkelt
from unkelt.steps.steps import STEPS
from unkelt.survey.checks import CHECKS

TOP = Path(__file__).parent.parent


def test_reference_pages_are_current():
    spec = importlib.util.spec_from_file_location("make_reference", TOP / "docs" / "make_reference.py")
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    for name, page in module.PAGES.items():
        assert (TOP / "docs" / name).read_text(encoding="utf-8") == page(), f"run docs/make_reference.py: {name} is old"


@pytest.mark.parametrize(
    ("room", "listed", "word"),
    [
        ("steps", {step.function.__module__ for step in STEPS.values()}, "@step("),
        ("survey", {check.look.__module__ for check in CHECKS}, "@check("),
    ],
)
def test_every_module_that_declares_one_is_listed(room, listed, word):
    folder = Path(unkelt.__file__).parent / room
    declaring = {f"unkelt.{room}.{p.stem}" for p in folder.glob("*.py") if f"\n{word}" in p.read_text(encoding="utf-8")}
    assert declaring == listed


def test_bundled_faces_have_their_licence_beside_them():
    for folder in (Path(unkelt.__file__).parent / "assets" / "faces").iterdir():
        assert "SIL OPEN FONT LICENSE Version 1.1" in (folder / "OFL.txt").read_text(encoding="utf-8")


@pytest.mark.parametrize("name", ["reading", "welding", "offsets", "surveying"])
def test_the_benchmarks_can_still_be_run(name):
    assert callable(importlib.import_module(f"benchmarks.{name}").rows)
