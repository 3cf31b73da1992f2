"""Unkelt as a library: the examples of its documentation run, and loading it loads nothing before it is needed."""

import re
import subprocess
import sys
from pathlib import Path

import pytest

import unkelt
import unkelt.scripting
from unkelt.demo import make_demo
from unkelt.errors import InputError

TOP = Path(__file__).parent.parent


def test_the_example_of_the_module_runs(tmp_path, monkeypatch, capsys):
    make_demo(tmp_path)
    monkeypatch.chdir(tmp_path)
    (tmp_path / "name.svg").write_bytes((tmp_path / "sea-thrift.svg").read_bytes())
    example = re.search(r"\n\n((?:    .*\n)+)", unkelt.scripting.__doc__)[1]
    exec(re.sub("^    ", "", example, flags=re.M), {"unkelt": unkelt})
    out = capsys.readouterr().out
    assert "hold text.live" in out
    assert out.rstrip().endswith("clean")


def test_the_example_of_the_guide_for_developers_runs(tmp_path, monkeypatch, capsys):
    make_demo(tmp_path)
    monkeypatch.chdir(tmp_path)
    (example,) = re.findall(r"```python\n(.*?)```", (TOP / "docs" / "scripting.md").read_text(encoding="utf-8"), re.S)
    exec(example, {})
    assert "merge" not in capsys.readouterr().err
    assert (tmp_path / "mended").is_dir()
    assert len(list((tmp_path / "mended").glob("*.svg"))) > 8


def test_steps_of_a_recipe_with_a_ticket_and_what_is_refused(tmp_path):
    make_demo(tmp_path)
    sheet = unkelt.read(tmp_path / "kittiwake.svg")
    ticket = unkelt.ticket(str(tmp_path / "kittiwake.toml"))
    mended = unkelt.mend(sheet, ticket)
    again = unkelt.run(mended.recipe, sheet, unkelt.ticket(ticket.source))
    assert again.sheet == mended.sheet
    assert [finding.code for finding in unkelt.survey(mended.sheet, ticket)] == []
    skipped = unkelt.run(unkelt.recipe('[[step]]\nname = "weld"\nitems = ["nothing"]\n'), sheet)
    assert skipped.sheet == sheet
    assert "nothing" in skipped.refused[0]
    with pytest.raises(InputError, match="is the original"):
        unkelt.write(mended.sheet, tmp_path / "kittiwake.svg", source=tmp_path / "kittiwake.svg")


def test_importing_loads_no_more_than_is_asked_for():
    script = "import sys, unkelt; assert 'numpy' not in sys.modules; unkelt.read; assert 'numpy' in sys.modules; assert 'PySide6' not in sys.modules"
    subprocess.run([sys.executable, "-c", script], check=True)
    with pytest.raises(AttributeError, match="has no attribute 'cut'"):
        unkelt.cut  # noqa: B018
