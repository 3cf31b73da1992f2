"""SVG in depth: the cascade, structure, units and hostile files."""

import gzip
import math
from dataclasses import replace

import numpy as np
import pytest

from tests.builders import outline, sheet, square, workshop
from tests.rendering import drawn
from unkelt.errors import InputError
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.measure import bounds
from unkelt.recipe import Call, apply
from unkelt.sheet.model import Group
from unkelt.steps.cures import cures_of
from unkelt.survey.checks import find_code, survey

NS = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
MM = 'width="100mm" height="100mm" viewBox="0 0 100 100"'


def read(inside: str, head: str = MM):
    return parse_svg(f"<svg {NS} {head}>{inside}</svg>".encode())


def fills(inside: str) -> list[str | None]:
    return [o.look.fill for o in read(inside).outlines()]


def boxes(inside: str, head: str = MM) -> list[tuple[float, ...]]:
    return [tuple(round(v, 4) for v in bounds(o.path)) for o in read(inside, head).outlines()]


P = 'd="M0 0h1v1z"'


@pytest.mark.parametrize(
    ("style", "element", "colour"),
    # CSS Cascade: origin and importance, then specificity, then order.
    [
        ("path{fill:#111111}", f'<path {P} fill="#222222"/>', "#111111"),  # a rule wins over an attribute
        ("path{fill:#111111}", f'<path {P} style="fill:#222222"/>', "#222222"),
        ("path{fill:#111111!important}", f'<path {P} style="fill:#222222"/>', "#111111"),
        (".a{fill:#111111} path{fill:#222222}", f'<path class="b a" {P}/>', "#111111"),  # specificity
        ("#p{fill:#111111} .a{fill:#222222}", f'<path id="p" class="a" {P}/>', "#111111"),
        ("g > path{fill:#111111}", f"<g><path {P}/></g>", "#111111"),
        ("g path[d]{fill:#111111} path{fill:#222222}", f"<g><g><path {P}/></g></g>", "#111111"),
        ("path:first-child{fill:#111111}", f"<g><path {P}/></g>", "#111111"),
        ("@media print{path{fill:#111111}}", f"<path {P}/>", "#111111"),
        ("@media (min-width:9px){path{fill:#111111}} path{fill:#222222}", f"<path {P}/>", "#222222"),
        ("g{fill:#111111} path{fill:inherit}", f"<g><path {P}/></g>", "#111111"),
        ("g{color:#111111} path{fill:currentColor}", f"<g><path {P}/></g>", "#111111"),
        ("path{fill:rgb(17,17,17)}", f"<path {P}/>", "#111111"),
        ("path{fill:hsl(0 0% 50%)}", f"<path {P}/>", "#808080"),
        ("path{fill:#123}", f"<path {P}/>", "#112233"),
        ("path{fill:rebeccapurple}", f"<path {P}/>", "#663399"),
        ("path{fill:transparent}", f"<path {P}/>", None),
        (
            "p{ath {fill:red} ;; path{fill:#111111}",
            f'<path {P} fill="#222222"/>',
            "#222222",
        ),  # broken: said, not guessed
    ],
)
def test_the_cascade(style, element, colour):
    assert fills(f"<style>{style}</style>{element}") == [colour]


def test_font_shorthand_and_relative_sizes():
    text = read(
        '<g style="font: italic bold 10px/1.2 \'Dancing Script\', serif"><text font-size="150%">a</text></g>'
    ).letterings()[0]
    face = text.runs[0].face
    assert (face.families, face.weight, face.italic) == (("Dancing Script", "serif"), 700, True)
    assert text.runs[0].size_mm == pytest.approx(15)


def test_use_symbol_and_nested_viewports():
    symbol = '<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10"/></symbol>'
    assert boxes(symbol + '<use href="#s" x="5" y="5" width="20" height="20"/>') == [(5, 5, 25, 25)]
    assert boxes(
        '<defs><rect id="r" width="2" height="2"/></defs><use xlink:href="#r" x="3" transform="scale(2)"/>'
    ) == [(6, 0, 10, 4)]
    nested = '<svg x="10" y="20" width="40" height="40" viewBox="0 0 20 20"><rect width="50%" height="20"/></svg>'
    assert boxes(nested) == [(10, 20, 30, 60)]
    assert boxes('<svg x="10" width="0"><rect width="5" height="5"/></svg>') == []


def test_what_is_used_inherits_from_where_it_is_used():
    inside = f'<defs><path id="p" {P}/></defs><use href="#p" fill="#111111"/><use href="#p" fill="#222222"/>'
    assert fills(inside) == ["#111111", "#222222"]
    ids = [o.id for o in read(inside).outlines()]
    assert len(set(ids)) == 2


def test_switch_takes_the_first_that_fits():
    inside = f'<switch><path systemLanguage="xx" {P} fill="red"/><path requiredExtensions="x" {P}/><path {P} fill="#111111"/></switch>'
    assert fills(inside) == ["#111111"]


def test_layers_and_titles_become_labels():
    inside = f'<g xmlns:any="urn:any" any:label="Cut"><path {P}><title>Tern</title></path></g>'
    group = read(inside).items[0]
    assert isinstance(group, Group)
    assert (group.label, group.items[0].label) == ("Cut", "Tern")


def test_text_in_all_its_parts_is_kept():
    inside = """<path id="arc" d="M0 50A50 50 0 0 1 100 50"/><text x="1 2 3" y="0" dy="0 1" rotate="10 20" textLength="40"
      lengthAdjust="spacingAndGlyphs" font-size="10" style="font-feature-settings:'ss01' on, 'liga' 0;writing-mode:vertical-rl">Tern
      <tspan baseline-shift="super" text-decoration="underline">a</tspan></text>
      <text direction="rtl"><textPath href="#arc" startOffset="50%" side="right">Hollin</textPath></text>"""
    text, along = read(inside).letterings()
    each = text.runs[0].each
    assert (each.x, each.dy, each.rotate) == ((1, 2, 3), (0, 1), (10, 20))
    assert (text.length_mm, text.stretch_glyphs, text.vertical) == (pytest.approx(40), True, True)
    assert text.runs[0].features == (("ss01", 1), ("liga", 0))
    assert (text.runs[-1].baseline_mm, text.runs[-1].decoration) == (pytest.approx(4), "underline")
    assert along.guide.offset_share == 0.5
    assert along.guide.right_side
    assert bounds(along.guide.path) == pytest.approx((0, 0, 100, 50), abs=0.01)
    assert along.direction == "rtl"
    wrapped = read(
        '<circle id="c" r="9"/><text style="shape-inside:url(#c);font-stretch:condensed">a b</text>'
    ).letterings()[0]
    assert bounds(wrapped.wrap_inside) == pytest.approx((-9, -9, 9, 9))
    assert (wrapped.runs[0].face.stretch, set(wrapped.beyond)) == ("condensed", {"shape-inside"})
    assert text.beyond == along.beyond == ()
    by_line = read(
        '<circle id="c" r="9"/><text style="shape-inside:url(#c)"><tspan x="1" y="5">a</tspan><tspan x="1" y="9">b</tspan></text>'
    )
    assert by_line.letterings()[0].beyond == ()
    assert any("line by line" in note for note in by_line.source.notes)
    again = parse_svg(write_svg(read(inside))).letterings()
    assert [replace(t, guide=None, placement=None) for t in again] == [
        replace(t, guide=None, placement=None) for t in read(inside).letterings()
    ]
    assert again[1].guide.offset_share == 0.5
    assert bounds(again[1].guide.path) == pytest.approx(bounds(along.guide.path), abs=1e-4)


@pytest.mark.parametrize(
    ("head", "ticket", "words"),
    [
        (MM, "", None),
        ('width="96px" height="96px"', "", None),
        ('viewBox="0 0 100 100"', "", "26.5 mm at 96, 28.2 mm at 90, 35.3 mm at 72"),
        ('width="595" height="842"', "", "at 72 units to the inch the page is A4"),
        ('width="744.09px" height="1052.36px"', "", "at 90 units to the inch the page is A4"),
        (
            'width="400px" height="400px"',
            '[size]\nwidth = "35.28 mm"',
            "at 72 units to the inch it has the ticket's size",
        ),
    ],
)
def test_units_are_recognised_by_evidence_and_never_guessed(head, ticket, words):
    found = find_code("size.units", read('<rect width="100" height="100"/>', head), workshop(ticket))
    assert bool(found) == bool(words)
    if words:
        assert words in found[0].message
        assert found[0].level == "hold"
        assert cures_of(found[0]) == ("state-units",)


def test_an_uneven_scale_is_found():
    found = find_code(
        "size.units",
        read(f"<path {P}/>", 'width="10mm" height="20mm" viewBox="0 0 10 10" preserveAspectRatio="none"'),
        workshop(),
    )
    assert found[0].value == pytest.approx(2)


def test_stating_the_units_makes_everything_follow():
    on = read('<rect width="72" height="36" stroke="#000" stroke-width="1"/>', 'viewBox="0 0 144 72"')
    after = apply(Call("state-units", options={"units": "72 to the inch"}), on, workshop()).sheet
    assert after.page_mm == pytest.approx((50.8, 25.4))
    assert bounds(after.outlines()[0].path) == pytest.approx((0, 0, 25.4, 12.7))
    assert after.outlines()[0].look.stroke_width_mm == pytest.approx(25.4 / 72)
    assert not find_code("size.units", after, workshop())


def test_what_importing_would_drop_is_a_finding():
    inside = f"""<clipPath id="c"><rect width="1" height="1"/></clipPath><g clip-path="url(#c)"><path id="a" {P}/></g>
      <path {P} visibility="hidden"/><image href="data:image/png;base64,AAAA" width="5" height="5"/><use href="other.svg#x"/>
      <path d="M0 0h9" stroke="#000" transform="skewX(30)"/>"""
    found = survey(read(inside), workshop())
    codes = [f.code for f in found]
    for code in ("content.effect", "content.hidden", "content.picture", "content.reference"):
        assert code in codes
    assert codes.count("content.effect") == 1  # the clip
    assert "skewed" in next(f.message for f in found if f.code == "stroke.visible")
    assert not [f for f in survey(sheet(outline("a", square())), workshop()) if f.code.startswith("content")]


HOSTILE = {
    "an entity bomb": '<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa">' + "".join(f'<!ENTITY {chr(98 + n)} "{f"&{chr(97 + n)};" * 10}">' for n in range(9))
    + ']><svg xmlns="http://www.w3.org/2000/svg"><text>&j;</text></svg>',
    "an external entity": '<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]><svg xmlns="http://www.w3.org/2000/svg"><text>&x;</text></svg>',
    "100,000 levels": '<svg xmlns="http://www.w3.org/2000/svg">' + "<g>" * 100_000 + "</g>" * 100_000 + "</svg>",
    "a wrong encoding": '<?xml version="1.0" encoding="no-such-thing"?><svg xmlns="http://www.w3.org/2000/svg"/>',
}  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_files_end_in_a_sentence(name):
    said = ""
    try:
        said = "".join(text.text for text in parse_svg(HOSTILE[name].encode(), "evil.svg").letterings())
    except InputError as problem:
        said = str(problem)
    assert "\n" not in said
    assert "root:" not in said
    assert len(said) < 1000


def test_a_prefix_without_its_namespace_is_read_and_said():
    found = parse_svg(
        f'<svg xmlns="http://www.w3.org/2000/svg"><image xlink:href="a.png" width="1" height="1"/><path {P}/></svg>'.encode()
    )
    assert len(found.outlines()) == 1
    assert any("not declared" in note for note in found.source.notes)


def test_use_that_multiplies_or_refers_to_itself_is_bounded(monkeypatch):
    monkeypatch.setattr("unkelt.formats.svg.reader.MOST_COPIES", 2000)  # the bound itself takes a while to reach
    doubling = "".join(f'<g id="g{n}"><use href="#g{n + 1}"/><use href="#g{n + 1}"/></g>' for n in range(40))
    with pytest.raises(InputError, match="copies of its items"):
        read(f'<defs>{doubling}<path id="g40" {P}/></defs><use href="#g0"/>')
    found = read(f'<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/><path {P}/></g>')
    assert any("refers back to itself" in note for note in found.source.notes)


def test_compressed_files_and_their_bound(monkeypatch):
    plain = f"<svg {NS} {MM}><path {P}/></svg>".encode()
    assert len(parse_svg(gzip.compress(plain)).outlines()) == 1
    with pytest.raises(InputError, match="ends early"):
        parse_svg(gzip.compress(plain)[:-12])
    with pytest.raises(InputError, match="can't be unpacked"):
        parse_svg(b"\x1f\x8b" + b"\x00" * 40)
    monkeypatch.setattr("unkelt.formats.svg.read.UNPACKED_LIMIT", 1000)
    with pytest.raises(InputError, match="unpacks to more"):
        parse_svg(gzip.compress(b" " * 100_000))


def test_ten_million_characters_of_path_data_are_read():
    d = "M0 0" + "l1 0l0 1" * 1_250_000
    assert len(read(f'<path d="{d}"/>').outlines()[0].path.points) == 2_500_000


def test_declared_entities_are_used_within_the_parsers_bounds():
    text = '<!DOCTYPE svg [<!ENTITY st "fill:#111111">]><svg xmlns="http://www.w3.org/2000/svg"><path style="&st;" d="M0 0h1v1z"/></svg>'
    assert parse_svg(text.encode()).outlines()[0].look.fill == "#111111"
    assert math.isfinite(parse_svg(text.encode()).page_mm[0])


def test_a_skewed_stroke_keeps_its_true_shape():
    """Drawn by an independent renderer, as it was and as we write it."""
    inside = '<path d="M20 20L60 40L30 70" fill="none" stroke="#000" stroke-width="8" transform="translate(9 3) skewX(30) scale(1 .4)"/>'
    on = read(inside)
    assert on.outlines()[0].look.pen
    a, b = (drawn(text) for text in (f"<svg {NS} {MM}>{inside}</svg>", write_svg(on).decode()))
    assert np.minimum(a, b).sum() / np.maximum(a, b).sum() >= 0.999
    assert read(inside.replace("skewX(30) scale(1 .4)", "rotate(30) scale(-2)")).outlines()[0].look.pen is None


@pytest.mark.parametrize(("drawn", "words"), [
    (f'<g style="mix-blend-mode: multiply"><path {P}/></g>', "has a blend mode"),
    ('<svg x="2" y="2" width="3" height="3" viewBox="0 0 10 10"><circle cx="5" cy="5" r="8"/></svg>', "cut off at its edge"),
    ('<symbol id="s" viewBox="0 0 10 10"><circle cx="5" cy="5" r="8"/></symbol><use href="#s" width="3" height="3"/>', "cut off at its edge"),
])  # fmt: skip
def test_what_is_painted_otherwise_than_importing_reads_it_is_told(drawn, words):
    """SVG 1.1, 14.3.3: an inner viewport hides what lies beyond it. Compositing Level 1, 5: blending with what lies
    beneath.
    """
    found = read(drawn)
    assert any(
        words in remark.words and remark.items and remark.code == "content.effect" for remark in found.source.remarks
    )
    whole = read('<svg width="9" height="9" viewBox="0 0 10 10"><circle cx="5" cy="5" r="5"/></svg>')
    assert whole.source.remarks == ()
