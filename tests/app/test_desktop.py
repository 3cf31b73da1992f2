"""The desk without a window: what people do there, called plainly, everything done where it is asked for."""

import pytest

from unkelt.app.desktop import Desktop
from unkelt.app.executor import AtOnce
from unkelt.demo import make_demo
from unkelt.errors import InputError
from unkelt.formats.formats import read_sheet
from unkelt.recipe import Call
from unkelt.session.kept_jobs import Keeper


@pytest.fixture(scope="module")
def quay(tmp_path_factory):
    folder = tmp_path_factory.mktemp("quay")
    make_demo(folder)
    return folder


def listening(desktop):
    said = []
    desktop.on_desk.said.connect(said.append)
    return said


def test_the_whole_way_without_a_window(quay, tmp_path):
    desktop, told = Desktop(Keeper(tmp_path / "kept")), []
    desktop.surveying.found.connect(lambda: told.append("found"))
    desktop.surveying.chose.connect(lambda: told.append("chose"))
    desktop.stepping.previewed.connect(lambda: told.append("previewed"))
    said = listening(desktop)
    desktop.opening.open_paths([quay / "kittiwake.svg"])
    assert told == ["found", "chose"]
    assert desktop.finding is not None
    desktop.stepping.mend_safe()
    taken = [stage.call.name for stage in desktop.job.stages]
    assert {"weld", "bind"} <= set(taken)
    desktop.stepping.undo()
    assert [stage.call.name for stage in desktop.job.stages] == taken[:-1]
    desktop.stepping.redo()
    out = tmp_path / "out.svg"
    desktop.handing.save_to(out)
    assert desktop.proof.verdict == "clean"
    assert desktop.job.saved
    assert [len(o.path) for o in read_sheet(out).outlines()] == [len(o.path) for o in desktop.job.sheet.outlines()]
    desktop.stepping.try_step(Call("thicken", options={"amount": "0.5 mm"}))
    assert desktop.preview.outcome is not None
    desktop.stepping.apply_preview()
    assert desktop.job.stages[-1].call.name == "thicken"
    assert not desktop.job.saved
    desktop.on_desk.close(0)
    assert (desktop.job, desktop.findings, desktop.preview, desktop.proof) == (None, None, None, None)
    assert not list((tmp_path / "kept").glob("*.unkelt"))
    assert not said


def test_several_jobs_are_mended_and_each_kept(quay, tmp_path):
    desktop = Desktop(Keeper(tmp_path))
    said = listening(desktop)
    desktop.opening.open_paths([quay / "kittiwake.svg", quay / "nowhere.svg", quay / "sea-thrift.svg"])
    assert [job.path.name for job in desktop.jobs] == ["kittiwake.svg", "sea-thrift.svg"]
    assert "nowhere.svg" in said[0]
    assert desktop.on_desk.front == 0
    assert desktop.surveying.judged(desktop.jobs[1])
    desktop.stepping.mend_all()
    assert all(job.stages for job in desktop.jobs)
    assert "2 of 2 jobs mended" in said[-1]
    assert len(list(tmp_path.glob("*.unkelt"))) == 2


def test_what_goes_wrong_is_said_and_nothing_is_left_under_way():
    executor, heard = AtOnce(), []

    def refuse(_):
        raise InputError("a.svg", "no such file")

    executor.start("open", "", refuse, heard.append, lambda sentence: heard.append(f"said: {sentence}"))
    executor.start("open", "", lambda _: executor.has("open"), heard.append, heard.append)
    assert heard[0].startswith("said: ")
    assert heard[1] is True
    assert not executor.has("open")
