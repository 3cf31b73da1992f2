"""Unkelt as a library: the examples of its documentation run, and loading it loads nothing before it is needed."""

import re
import subprocess
import sys
from pathlib import Path

import pytest

from unkelt import api
from unkelt.demo import make_demo
from unkelt.errors import InputError

TOP = Path(__file__).parent.parent


def test_the_example_of_the_module_runs(tmp_path, monkeypatch, capsys):
    make_demo(tmp_path)
    monkeypatch.chdir(tmp_path)
    (tmp_path / "name.svg").write_bytes((tmp_path / "sea-thrift.svg").read_bytes())
    example = re.search(r"\n\n((?:(?:    .*)?\n)+)", api.__doc__)[1]
    exec(re.sub("^    ", "", example, flags=re.M), {})
    out = capsys.readouterr().out
    assert "hold text.live" in out
    assert out.rstrip().endswith("clean")


def test_the_example_of_the_guide_for_developers_runs(tmp_path, monkeypatch, capsys):
    make_demo(tmp_path)
    monkeypatch.chdir(tmp_path)
    example = (TOP / "docs" / "examples" / "mend_here.py").read_text(encoding="utf-8")
    shown = re.findall(r"```python\n(.*?)```", (TOP / "docs" / "scripting.md").read_text(encoding="utf-8"), re.S)
    assert shown == [example.split('"""\n\n', 1)[1]]
    exec(example, {})
    said = capsys.readouterr().out
    assert "kittiwake.svg: clean; " in said
    assert "snapshot.svg: hold; nothing to mend" in said
    assert len(list((tmp_path / "mended").glob("*.svg"))) == len(list(tmp_path.glob("*.svg")))


def test_steps_of_a_recipe_with_a_ticket_and_what_is_refused(tmp_path):
    make_demo(tmp_path)
    sheet = api.read(tmp_path / "kittiwake.svg")
    ticket = api.ticket(str(tmp_path / "kittiwake.toml"))
    mended = api.mend(sheet, ticket)
    again = api.run(mended.recipe, sheet, api.ticket(ticket.source))
    assert again.sheet == mended.sheet
    assert [finding.code for finding in api.survey(mended.sheet, ticket)] == []
    skipped = api.run(api.recipe('[[step]]\nname = "weld"\nitems = ["nothing"]\n'), sheet)
    assert skipped.sheet == sheet
    assert "nothing" in skipped.refused[0]
    with pytest.raises(InputError, match="is the original"):
        api.write(mended.sheet, tmp_path / "kittiwake.svg", source=tmp_path / "kittiwake.svg")


def test_importing_the_package_loads_no_library():
    script = "import sys, unkelt; assert not {'numpy', 'PySide6'} & set(sys.modules); from unkelt import api; assert 'PySide6' not in sys.modules"
    subprocess.run([sys.executable, "-c", script], check=True)
