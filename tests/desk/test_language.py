"""Whatever the window says can be translated, and numbers are written as the reader writes them."""

import os
import subprocess
import sys
from pathlib import Path

import pytest
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po

from unkelt import language
from unkelt.errors import LengthError
from unkelt.language import BUNDLED, figures, said, tr_count, use_decimal
from unkelt.session.reading import INCH, MM
from unkelt.units import parse_length

ROOT = Path(__file__).parents[2]

WALK = """
import re, sys, tempfile
from pathlib import Path
sys.path.insert(0, "docs")
from make_screenshots import settle
from PySide6.QtWidgets import QComboBox, QLineEdit, QWidget
from unkelt.demo import make_demo
from unkelt.desk.app import make_application
from unkelt.desk.views import View
from unkelt.desk.window import Desk

make_application("100")
desk = Desk()
desk.show()
quay = Path(tempfile.mkdtemp())
make_demo(quay)
left = set()

def look():
    settle(desk)
    titles = {job.title for job in desk.state.jobs} | {job.path.name for job in desk.state.jobs}
    for widget in desk.findChildren(QWidget):
        if not widget.isVisible():
            continue
        names = ["toolTip", "accessibleName", "placeholderText"] + ([] if isinstance(widget, QLineEdit) else ["text"])
        texts = [getattr(widget, name)() for name in names if callable(getattr(type(widget), name, None)) and type(widget).__name__ != "TicketForm"]
        if isinstance(widget, QComboBox):
            texts += [widget.itemText(index) for index in range(widget.count())]
        for text in texts:
            bare = str(text).replace("  \\u25be", "")
            if re.search(r"[A-Za-z]{2}", bare) and "\\u27e6" not in bare and bare not in {*titles, "Unkelt"}:
                left.add(f"{type(widget).__name__}: {bare}")
    left.update(action.text() for action in desk.actions_by_id.values() if "\\u27e6" not in action.text())

look()
desk.state.opening.open_paths([quay / name for name in sys.argv[1:]])
look()
for index in range(len(desk.state.jobs)):
    desk.state.on_desk.bring_forward(index)
    settle(desk)
    for number in range(len(desk.state.findings)):
        desk.state.surveying.choose(number)
        look()
for view in ("intake", "compose", "proof", "release"):
    desk.turn_to(View[view.upper()])
    look()
print("\\n".join(sorted(left)))
"""


def made_up(folder):
    """A language in which everything stands in brackets, installed as a reader would install one."""
    with (BUNDLED / "unkelt.pot").open("rb") as file:
        catalogue = read_po(file)
    for message in catalogue:
        if message.id:
            several = isinstance(message.id, tuple)
            message.string = tuple(f"⟦{each}⟧" for each in message.id) if several else f"⟦{message.id}⟧"
    catalogue.locale = "eo"
    place = folder / "unkelt" / "locale" / "eo" / "LC_MESSAGES"
    place.mkdir(parents=True)
    with (place / "unkelt.mo").open("wb") as file:
        write_mo(file, catalogue)


def test_no_word_of_the_window_escapes_translation(tmp_path):
    made_up(tmp_path)
    where = os.environ | {"XDG_DATA_HOME": str(tmp_path), "LANGUAGE": "eo", "QT_QPA_PLATFORM": "offscreen"}
    files = ("tags.svg", "parcel.svg")
    command = [sys.executable, "-c", WALK, *files]
    run = subprocess.run(command, check=False, cwd=ROOT, env=where, capture_output=True, text=True, timeout=300)
    assert run.returncode == 0, run.stderr
    assert run.stdout.strip() == ""


def test_the_catalogue_holds_what_the_source_says(tmp_path, monkeypatch):
    monkeypatch.syspath_prepend(str(ROOT / "docs"))
    import make_catalogue

    monkeypatch.setattr(make_catalogue, "BUNDLED", tmp_path)
    monkeypatch.setattr(make_catalogue, "TEMPLATES", tmp_path / "templates.txt")
    make_catalogue.main()
    for name in ("unkelt.pot", "templates.txt"):
        assert (tmp_path / name).read_bytes() == (BUNDLED / name).read_bytes(), "run docs/make_catalogue.py"


def test_without_a_catalogue_words_stay_and_counts_have_their_form():
    assert said("3 joints missed") == "3 joints missed"
    assert tr_count("{count} job", "{count} jobs", 1) == "1 job"
    assert tr_count("{count} job", "{count} jobs", 3) == "3 jobs"


@pytest.mark.parametrize(
    ("text", "there"),
    [
        ("ink 864.75 mm", "ink 864,75 mm"),
        ("12.5 × 3.25", "12,5 × 3,25"),
        ("kittiwake-2.1.svg", "kittiwake-2.1.svg"),
        ("version 3.11.7", "version 3.11.7"),
        ("0.12 mm apart.", "0,12 mm apart."),
    ],
)
def test_numbers_by_the_locale_and_names_as_they_are(text, there):
    use_decimal(",")
    try:
        assert figures(text) == said(text) == there
        assert MM.say(12.345) == "12,35 mm" or MM.say(12.345) == "12,34 mm"
        assert INCH.say(25.4, bare=True) == "1,000"
    finally:
        use_decimal(".")
    assert figures(text) == text


def test_lengths_may_be_typed_with_a_comma_unless_it_could_mean_thousands():
    assert parse_length("12,5 mm") == 12.5
    assert parse_length("90,5 mm + 1,5 mm") == 92
    with pytest.raises(LengthError, match="thousands"):
        parse_length("1,500 mm")


def test_a_sentence_with_gaps_is_found_by_its_template(monkeypatch):
    words = {
        "{0} joints missed": "{0} Fugen fehlen",
        "the face “{0}” is not here": "Schrift „{0}“ fehlt",
        "cut": "schneiden",
    }
    monkeypatch.setattr(language, "TRANSLATED", True)
    monkeypatch.setattr(language, "tr", lambda text: words.get(text, text))
    patterns = ((each, language.re.compile(each.replace("{0}", "(.*?)"))) for each in words if "{0}" in each)
    monkeypatch.setattr(language, "_patterns", lambda found=tuple(patterns): found)
    said.cache_clear()
    try:
        assert said("7 joints missed") == "7 Fugen fehlen"
        assert said("The face “Arvo” is not here.") == "Schrift „Arvo“ fehlt."
        assert said("cut · 7 joints missed") == "schneiden · 7 Fugen fehlen"
        assert said("“K” cut") == "“K” schneiden"
        assert said("nobody translated this") == "nobody translated this"
    finally:
        said.cache_clear()
