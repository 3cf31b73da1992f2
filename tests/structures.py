"""Inputs that hold to a format's outer grammar and to nothing else, for hypothesis: what byte changes hardly ever
reach.
"""

from __future__ import annotations

from io import BytesIO
from xml.sax.saxutils import escape, quoteattr

from hypothesis import strategies as st
from pypdf import PdfWriter
from pypdf.generic import DictionaryObject, NameObject, StreamObject

NUMBERS = st.one_of(
    st.sampled_from(
        ["0", "-1", "1e9", "1e-9", "1e308", "1e999", "nan", "inf", "-0", "", "50%", "2em", "3 4", "1,2,,3"]
    ),
    st.floats(-1e4, 1e4).map("{:g}".format),
)
TAGS = [
    "g", "svg", "a", "switch", "defs", "symbol", "use", "path", "rect", "circle", "ellipse", "line", "polyline", "polygon",
    "text", "tspan", "textPath", "image", "clipPath", "mask", "linearGradient", "style", "title", "script", "odd",
]  # fmt: skip
LENGTHS = [
    "x", "y", "width", "height", "rx", "ry", "r", "cx", "cy", "x1", "y2", "dx", "dy", "rotate", "stroke-width", "font-size",
    "textLength", "startOffset", "opacity", "stroke-miterlimit", "letter-spacing", "stroke-dasharray", "font-weight",
]  # fmt: skip
WORDS = {
    "id": ["a", "b", "a b", ""],
    "href": ["#a", "#b", "#", "x.svg", "data:,"],
    "class": ["a", "b"],
    "d": ["M0 0L1 1", "M0 0C1 2 3 4 5 6Z", "M1e9 0A1 1 0 0 1 0 1e-9z", "M0 0H9V9z M", "z", "M0,0 9,9 T5 5S1 1 2 2"],
    "points": ["0 0 1 1 2", "0,0 9,0 9,9", "x"],
    "transform": [
        "scale(0)",
        "rotate(30)",
        "skewX(90)",
        "matrix(1 2 2 4 0 0)",
        "scale(1e300)",
        "translate(",
        "scale(-1 2)",
    ],
    "viewBox": ["0 0 10 10", "0 0 0 0", "0 0 -1 5", "a", "0 0 1e-300 1"],
    "preserveAspectRatio": ["none", "xMidYMid slice", "odd"],
    "style": ["fill:red!important", "font:bold 3px Arvo", "display:none", "stroke:url(#b) blue;;:", "font-size:2em"],
    "fill": ["none", "currentColor", "url(#a)", "rgb(1,2", "#12345"],
    "stroke": ["black", "url(#zz)", "inherit"],
    "text-anchor": ["middle", "end"],
    "writing-mode": ["tb"],
    "{http://www.w3.org/XML/1998/namespace}space": ["preserve"],
}
ATTRIBUTES = st.one_of(
    st.tuples(st.sampled_from(LENGTHS), NUMBERS),
    st.sampled_from([(name, value) for name, values in WORDS.items() if name[0] != "{" for value in values]),
)


def _element(children: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    return st.builds(
        lambda tag, attributes, inside: (
            f"<{tag} {' '.join(f'{name}={quoteattr(value)}' for name, value in dict(attributes).items())}>{''.join(inside)}</{tag}>"
        ),
        st.sampled_from(TAGS),
        st.lists(ATTRIBUTES, max_size=7),
        st.lists(children, max_size=4),
    )


_TEXT = st.one_of(
    st.sampled_from(["Tern", " ", ".a{fill:red}", "*{stroke:#123}"]),
    st.text(st.characters(exclude_categories=["C"]), max_size=5),
).map(escape)
SVG = st.lists(st.recursive(_TEXT, _element, max_leaves=12), max_size=4).map(
    lambda parts: (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="90" viewBox="0 0 9 9">{"".join(parts)}</svg>'.encode()
    )
)

ENTITIES = [
    "LINE",
    "ARC",
    "CIRCLE",
    "ELLIPSE",
    "LWPOLYLINE",
    "POLYLINE",
    "VERTEX",
    "SEQEND",
    "SPLINE",
    "TEXT",
    "MTEXT",
    "INSERT",
    "HATCH",
    "SOLID",
    "POINT",
    "ODD",
]
_CODES = st.sampled_from(
    [1, 2, 6, 8, 10, 20, 30, 11, 21, 31, 40, 41, 42, 43, 50, 51, 60, 62, 66, 70, 71, 72, 73, 74, 90, 91, 210, 220, 230]
)
_TAG = st.tuples(_CODES, st.one_of(NUMBERS, st.sampled_from(["0", "1", "2", "B", "255", "-3"])))
_ENTITY = st.tuples(st.sampled_from(ENTITIES), st.lists(_TAG, max_size=14))


def _dxf(entities: list[tuple[str, list[tuple[int, str]]]]) -> bytes:
    lines = ["0", "SECTION", "2", "ENTITIES"]
    for kind, tags in entities:
        lines += ["0", kind, "8", "0"]
        for code, value in tags:
            lines += [str(code), value]
    return "\n".join([*lines, "0", "ENDSEC", "0", "EOF", ""]).encode()


DXF = st.lists(_ENTITY, max_size=5).map(_dxf)

_OPERATORS = {
    "m": 2, "l": 2, "c": 6, "v": 4, "y": 4, "re": 4, "h": 0, "f": 0, "f*": 0, "S": 0, "B*": 0, "n": 0, "W": 0, "q": 0, "Q": 0,
    "cm": 6, "w": 1, "M": 1, "j": 1, "J": 1, "rg": 3, "g": 1, "K": 4, "BT": 0, "ET": 0, "Td": 2, "Tm": 6, "Tz": 1, "Tr": 1,
}  # fmt: skip
_NUMBER = st.one_of(
    st.sampled_from(["0", "-1", "1e5", "99999999999", "0.00001", "-0.", "."]), st.integers(-500, 900).map(str)
)
_OPERATION = st.sampled_from(sorted(_OPERATORS)).flatmap(
    lambda name: st.lists(_NUMBER, min_size=_OPERATORS[name], max_size=_OPERATORS[name]).map(
        lambda n: " ".join([*n, name])
    )
)
_SHOW = st.sampled_from(
    ["/F1 12 Tf", "/F1 0 Tf", "(Tern) Tj", "[(Te) -200 (rn)] TJ", "/X Do", "[3 1] 0 d", "[] 5 d", "[0] 0 d"]
)


def _pdf(operations: list[str]) -> bytes:
    writer = PdfWriter()
    page = writer.add_blank_page(300, 200)
    content = StreamObject()
    content.set_data("\n".join(operations).encode())
    page[NameObject("/Contents")] = content
    face = {"/Type": "/Font", "/Subtype": "/Type1", "/BaseFont": "/Helvetica"}
    face = DictionaryObject({NameObject(key): NameObject(value) for key, value in face.items()})
    fonts = DictionaryObject({NameObject("/F1"): face})
    page[NameObject("/Resources")] = DictionaryObject({NameObject("/Font"): fonts})
    output = BytesIO()
    writer.write(output)
    return output.getvalue()


PDF = st.lists(st.one_of(_OPERATION, _SHOW), max_size=25).map(_pdf)
