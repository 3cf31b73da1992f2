"""The house is in order: the generated pages are current, every step and check is listed, no test needs the network."""

import importlib.util
import shutil
import subprocess
from pathlib import Path

import pytest

import unkelt
from unkelt.steps.steps import STEPS
from unkelt.survey.checks import CHECKS

TOP = Path(__file__).parent.parent


def reference():
    spec = importlib.util.spec_from_file_location("make_reference", TOP / "docs" / "make_reference.py")
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


def test_reference_pages_are_current():
    module = reference()
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


def test_every_benchmark_can_be_found_by_its_name():
    named = importlib.import_module("benchmarks.__main__").PARTS
    modules = {path.stem for path in (TOP / "benchmarks").glob("*.py")} - {"__init__", "__main__", "timing"}
    assert set(named) == modules


def test_a_benchmark_runs_ours_beside_the_raw_library(monkeypatch):
    from benchmarks import offsets

    ran = []

    def once(work, *_):
        ran.append(work())
        return 1.0

    few = offsets.script(1)[:3]
    monkeypatch.setattr(offsets, "best", once)
    monkeypatch.setattr(offsets, "script", lambda _: few)
    rows = offsets.rows()
    assert len(ran) > len(rows) > 0, "ours and the raw library"
    assert all(row.ours_s == 1.0 and row.raw for row in rows)


DESKTOP = TOP / "desktop"


@pytest.mark.parametrize(
    "command",
    [
        ("desktop-file-validate", "app.unkelt.Unkelt.desktop"),
        ("appstreamcli", "validate", "--no-net", "app.unkelt.Unkelt.metainfo.xml"),
        ("xmllint", "--noout", "app.unkelt.Unkelt-mime.xml"),
    ],
    ids=lambda command: command[0],
)
def test_the_desktop_files_are_valid_by_the_freedesktop_tools(command):
    if shutil.which(command[0]) is None:
        pytest.skip(f"{command[0]} is not installed")
    made = subprocess.run(command, cwd=DESKTOP, capture_output=True, text=True, check=False)
    assert made.returncode == 0, made.stdout + made.stderr


def test_man_page_and_completions_are_current():
    module = reference()
    dated = (DESKTOP / "unkelt.1").read_text(encoding="utf-8").split("\n", 1)
    assert dated[1] == module.man_page().split("\n", 1)[1], "run docs/make_reference.py: the man page is old"
    for name, shell in (("unkelt", "bash"), ("_unkelt", "zsh")):
        assert (DESKTOP / name).read_text(encoding="utf-8") == module.completion(shell)
    for command in ("check", "mend", "proof", "release", "fonts", "desk"):
        assert f"unkelt {command}" in dated[1].replace("\\-", "-")
