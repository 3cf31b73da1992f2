"""`content.css`, `content.effect`, `content.hidden`, `content.left-out`, `content.pages`, `content.picture`,
`content.reference`, `text.empty`
"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.job.workshop import Workshop
from unkelt.messages import say_count, sentence
from unkelt.sheet.model import LEFT_OUT, Outline, Picture, Remark, Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level

_SAYS = {
    "content.effect": (Level.WARN, "An effect that importing drops", "would not come in as shown"),
    "content.reference": (Level.HOLD, "A reference that leads nowhere", "nothing is ever fetched"),
    "content.css": (Level.WARN, "CSS read in more than one way", "other programs may show it otherwise"),
    LEFT_OUT: (Level.HOLD, "Something that could not be read", "it is in the file but not on the sheet"),
    "content.pages": (Level.WARN, "Other pages", "they are in the file but not on the sheet"),
    "text.empty": (Level.WARN, "A text without letters", "an empty frame"),
}


@check(
    "content.css",
    "content.effect",
    "content.hidden",
    "content.left-out",
    "content.pages",
    "content.picture",
    "content.reference",
    "text.empty",
)
def content(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """The file has contents that would not import as shown: effects, pictures, hidden items, broken references."""
    on_sheet = {item.id for item in sheet.walk()}
    for code in _SAYS:
        by_words: dict[str, list[Remark]] = {}
        for remark in sheet.source.remarks:
            gone = code == "content.effect" and remark.items and not on_sheet & set(remark.items)
            if remark.code == code and not gone:
                by_words.setdefault(remark.words, []).append(remark)
        for words, remarks in by_words.items():
            items = tuple(item for remark in remarks for item in remark.items)
            yield _from_remark(sheet, code, words, items, outside=remarks[0].outside)
    for picture in (item for item in sheet.walk() if isinstance(item, Picture)):
        yield Finding(
            code="content.picture",
            level=Level.HOLD,
            items=(picture.id,),
            box=picture.box,
            value=None,
            unit=None,
            headline="A raster picture",
            detail="no tool can follow it",
            message="A tool follows outlines. Importing software leaves this picture out or burns it as a rectangle.",
        )
    hidden = [outline for outline in sheet.outlines() if not outline.look.shown]
    if hidden:
        boxes = [box for outline in hidden if (box := bounds(outline.path))]
        count = len(hidden)
        yield Finding(
            code="content.hidden",
            level=Level.WARN,
            items=tuple(outline.id for outline in hidden),
            box=join_boxes(boxes),
            value=float(count),
            unit="outlines",
            headline=say_count("A hidden outline", "{count} hidden outlines", count),
            detail="some importing shows and cuts it",
            message="These outlines are in the file but invisible: not displayed, without paint, or fully "
            "transparent. Some importing software shows and cuts them.",
            marks=tuple(boxes),
        )


def _from_remark(sheet: Sheet, code: str, words: str, items: tuple[str, ...], *, outside: bool) -> Finding:
    level, headline, detail = _SAYS[code]
    if outside:
        headline = "A reference outside the file"
    return Finding(
        code=code,
        level=level,
        items=tuple(dict.fromkeys(items)),
        box=_box(sheet, items),
        value=None,
        unit=None,
        headline=headline,
        detail=detail,
        message=sentence(words),
    )


def _box(sheet: Sheet, items: tuple[str, ...]) -> Box | None:
    found = [sheet.find(item) for item in items[:50]]
    return join_boxes([box for item in found if isinstance(item, Outline) and (box := bounds(item.path))])
