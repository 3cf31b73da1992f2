"""The house is in order: the generated pages are current, every step and check is listed, no test needs the network."""

import importlib.util
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

import unkelt
from unkelt.cli import main
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


DESKTOP = TOP / "src" / "unkelt" / "assets" / "desktop"


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


@pytest.mark.skipif(sys.version_info[:2] != (3, 11), reason="other versions of argparse word their help otherwise")
def test_man_page_and_completions_are_current():
    module = reference()
    dated = (DESKTOP / "unkelt.1").read_text(encoding="utf-8").split("\n", 1)
    assert dated[1] == module.man_page().split("\n", 1)[1], "run docs/make_reference.py: the man page is old"
    for name, shell in (("unkelt", "bash"), ("_unkelt", "zsh")):
        assert (DESKTOP / name).read_text(encoding="utf-8") == module.completion(shell)
    for command in ("check", "mend", "proof", "release", "fonts", "desk"):
        assert f"unkelt {command}" in dated[1].replace("\\-", "-")


def test_the_program_goes_into_the_menu_and_leaves_no_trace(tmp_path, monkeypatch, capsys):
    """Desktop Entry Specification: checked by desktop-file-validate."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    kept = tmp_path / "share" / "applications" / "other.desktop"
    kept.parent.mkdir(parents=True)
    kept.write_text("[Desktop Entry]\n")
    assert main(["integrate"]) == 0
    entry = tmp_path / "share" / "applications" / "app.unkelt.Unkelt.desktop"
    subprocess.run(["desktop-file-validate", entry], check=True)
    (line,) = [line for line in entry.read_text().splitlines() if line.startswith("Exec=")]
    assert Path(line.removeprefix("Exec=").removesuffix(" desk %F")).is_absolute()
    assert (tmp_path / "share" / "man" / "man1" / "unkelt.1").is_file()
    assert main(["integrate", "--remove"]) == 0
    left = {path.name for path in (tmp_path / "share").rglob("*") if path.is_file()}
    assert left - {"mimeinfo.cache"} <= {"other.desktop"} | {p.name for p in (tmp_path / "share" / "mime").rglob("*")}
    assert not list((tmp_path / "share").rglob("*nkelt*"))
