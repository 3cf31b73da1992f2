"""Plants each defect in clean words of several faces, and writes docs/confusion.md: what was found of it, and what
else.
"""

from __future__ import annotations

import collections
import sys
from pathlib import Path

from tests.builders import workshop
from tests.planting import DRAWINGS, LEFT_TO_A_PERSON, ON_WORDS_ONLY, PLANTS, clean_sheet, nearest, others

from unkelt.mending import mend
from unkelt.survey.checks import survey

WORDS = [
    ("Bobolink", "Pacifico"), ("Sandpiper", "Dancing Script"), ("BERTH 8", "Arvo"), ("Hollin Quay", "Sacramento"),
    ("QUAY 80", "Alfa Slab One"), ("Oystercatcher", "Barlow"), ("Guillemot", "Pacifico"), ("Dunlin & Rook", "Arvo"),
    *((path.stem, "") for path in sorted(DRAWINGS.glob("*.svg"))),
]  # fmt: skip
HEAD = """# How many planted defects are found

`docs/make_confusion.py` makes this page. It plants each defect by itself in {words} clean words of {faces} faces
and in {drawings} open-licence drawings from a published icon set (`tests/corpus/drawings/`). It plants a guide
in words only. The columns:

- *found*: sheets on which Unkelt reports the defect;
- *in place*: sheets with a mark within 0.1 mm of the defect;
- *cured*: sheets on which "Mend what is safe" leaves nothing to find. Where a person has
  to choose, mending must change nothing;
- *else*: anything else that Unkelt reports by mistake.

| planted | found | in place | cured | else |
| --- | --- | --- | --- | --- |
"""


def main() -> None:
    sheets = {pair: clean_sheet(*pair) for pair in WORDS}
    rows = []
    for code, plant in PLANTS.items():
        found = place = cured = 0
        beside: collections.Counter[str] = collections.Counter()
        good = {pair: sheet for pair, sheet in sheets.items() if pair[1] or code not in ON_WORDS_ONLY}
        for sheet in good.values():
            bad, (x, y) = plant(sheet)
            findings = survey(bad, workshop())
            mine = [finding for finding in findings if finding.code == code]
            found += bool(mine)
            place += bool(mine) and min(nearest(finding, x, y) for finding in mine) <= 0.1
            beside.update(others(code, [finding.code for finding in findings]))
            stages = mend(bad, workshop())
            cured += (
                not stages if code in LEFT_TO_A_PERSON else not survey(stages[-1].sheet if stages else bad, workshop())
            )
        told = ", ".join(f"{other} × {count}" for other, count in beside.items()) or "–"
        choice = " (left to a person)" if code in LEFT_TO_A_PERSON else ""
        rows.append(f"| {code} | {found} of {len(good)} | {place} | {cured}{choice} | {told} |")
    head = HEAD.format(
        words=sum(bool(family) for _, family in WORDS),
        faces=len({family for _, family in WORDS} - {""}),
        drawings=sum(not family for _, family in WORDS),
    )
    (Path(__file__).parent / "confusion.md").write_text(head + "\n".join(rows) + "\n", encoding="utf-8")


if __name__ == "__main__":
    sys.exit(main())
