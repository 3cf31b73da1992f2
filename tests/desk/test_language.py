"""Whatever the window says can be translated, and numbers are written as the reader writes them."""

import json
import os
import pickle
import subprocess
import sys
from pathlib import Path
from typing import ClassVar

import pytest
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po

from unkelt import language
from unkelt.errors import InputError, LengthError, StepRefused
from unkelt.language import BUNDLED, figures, said, tr_count, use_decimal
from unkelt.messages import each_once, listed, say, say_count, sentence
from unkelt.session.reading import INCH, MM
from unkelt.sheet.appearance import Operation
from unkelt.units import parse_length

ROOT = Path(__file__).parents[2]

WALK = """
import re, sys, tempfile
from pathlib import Path
from typing import ClassVar
sys.path.insert(0, "docs")
from make_screenshots import settle
from PySide6.QtWidgets import QComboBox, QLineEdit, QWidget
from unkelt.demo import make_demo
from unkelt.desk.app import make_application
from unkelt.desk.views import View
from unkelt.desk.window import Desk
from unkelt.language import languages

make_application("100")
desk = Desk()
desk.show()
quay = Path(tempfile.mkdtemp())
make_demo(quay)
left = set()
TONGUES = {desk.room.releasing.languages.itemText(n) for n in range(1 + len(languages()))}  # as their speakers call them

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
            if re.search(r"[A-Za-z]{2}", bare) and "\\u27e6" not in bare and bare not in {*titles, "Unkelt", *TONGUES}:
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
    make_catalogue.main()
    assert (tmp_path / "unkelt.pot").read_bytes() == (BUNDLED / "unkelt.pot").read_bytes(), "run docs/make_catalogue.py"


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


class Polish:
    """A catalogue of a language with three forms of a plural (CLDR's rules for Polish: one, few, many)."""

    one: ClassVar = {"{count} joint missed": ["brak {count} spoiny", "brak {count} spoin", "brak {count} spoin!"]}
    whole: ClassVar = {
        "the face “{face}” is not here": "nie ma kroju „{face}”",
        "cut": "ciąć",
        "{size:.1f} mm of {limit:.1f}": "z {limit:.1f} jest {size:.1f} mm",
    }

    def gettext(self, words):
        return self.whole.get(words, words)

    def ngettext(self, one, _, count):
        few = count % 10 in (2, 3, 4) and count % 100 not in (12, 13, 14)
        return self.one[one][0 if count == 1 else 1 if few else 2]


def test_a_message_is_said_by_what_it_was_made_of(monkeypatch):
    monkeypatch.setattr(language, "TRANSLATED", True)
    monkeypatch.setattr(language, "_words", Polish())
    use_decimal(",")
    try:
        missed = [say_count("{count} joint missed", "{count} joints missed", count) for count in (1, 3, 5)]
        assert [said(each) for each in missed] == ["brak 1 spoiny", "brak 3 spoin", "brak 5 spoin!"]
        face = say("the face “{face}” is not here", face="Arvo {0}")
        assert said(StepRefused("set-text", face).reason) == "nie ma kroju „Arvo {0}”"
        assert said(sentence(face)) == "Nie ma kroju „Arvo {0}”."
        assert said(say("{size:.1f} mm of {limit:.1f}", size=1.25, limit=3)) == "z 3,0 jest 1,2 mm"
        assert said(listed(" · ", [Operation.CUT, missed[0]])) == "ciąć · brak 1 spoiny"
        assert said(str(InputError("a.svg", face, "line 3"))) == "a.svg: line 3: nie ma kroju „Arvo {0}”"
        assert said("nobody translated this") == "nobody translated this"
    finally:
        use_decimal(".")


def test_a_message_reads_as_english_wherever_it_goes():
    face = say("the face “{face}” is not here", face="Arvo")
    assert json.dumps(face, ensure_ascii=False) == '"the face “Arvo” is not here"'
    again = pickle.loads(pickle.dumps(StepRefused("set-text", face)))
    assert again.reason == face
    assert again.reason.values == {"face": "Arvo"}
    assert face + ", and more" == "the face “Arvo” is not here, and more"


def test_a_sentence_said_often_is_told_once():
    assert each_once(["too far", "no face", "too far"]) == ["too far (2 times)", "no face"]
