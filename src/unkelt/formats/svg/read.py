"""Reading SVG: from bytes to a document, and by its reader to a sheet.

Nothing is executed and nothing is fetched.
"""

from __future__ import annotations

import re
import zlib
from pathlib import Path as FilePath

from lxml import etree

from unkelt.errors import InputError
from unkelt.formats.files import read_bytes
from unkelt.formats.svg.reader import Reader
from unkelt.formats.svg.values import local_name
from unkelt.messages import say
from unkelt.sheet.model import Sheet

UNPACKED_LIMIT = 1 << 30
"""A compressed file may unpack to this many bytes."""


def read_svg(path: FilePath) -> Sheet:
    """The sheet of an SVG file, plain or compressed. Raises InputError when it is not one."""
    return parse_svg(read_bytes(path), str(path))


def parse_svg(data: bytes, name: str = "svg") -> Sheet:
    """The sheet of SVG bytes; `name` stands for the file in messages. Raises InputError."""
    if data[:2] == b"\x1f\x8b":
        data = _unpacked(data, name)
    # Declared entities keep the parser's own limits on how far they may grow; without them a large file is just large.
    harmless = b"<!ENTITY" not in data
    parser = etree.XMLParser(
        resolve_entities="internal",  # type: ignore[arg-type]  # newer than the stubs
        no_network=True,
        load_dtd=False,
        huge_tree=harmless,
        remove_comments=True,
    )
    undeclared = False
    try:
        try:
            root = etree.fromstring(data, parser)
        except etree.XMLSyntaxError as problem:
            if getattr(problem, "code", None) != etree.ErrorTypes.NS_ERR_UNDEFINED_NAMESPACE:
                raise
            # Only a prefix lacks its namespace: all the rest is there, and is read.
            undeclared = True
            root = etree.fromstring(
                data, etree.XMLParser(recover=True, no_network=True, load_dtd=False, remove_comments=True)
            )
    except etree.XMLSyntaxError as problem:
        line, column = problem.position
        reason = re.sub(r"(, use XML_PARSE_HUGE option)?, line \d+, column \d+", "", problem.msg or "")
        raise InputError(
            name,
            say("is not well-formed XML ({reason})", reason=reason),
            say("line {line}, column {column}", line=line, column=column),
        ) from problem
    except ValueError as problem:
        raise InputError(name, say("is not XML: {problem}", problem=problem)) from problem
    if root is None:
        raise InputError(name, "is not well-formed XML")
    if local_name(root) != "svg":
        raise InputError(
            name, say("is not SVG: its outermost element is “{value}”", value=local_name(root) or root.tag)
        )
    reader = Reader(root, name)
    if undeclared:
        reader.remark("a namespace prefix is not declared; stricter software refuses the file")
    return reader.sheet()


def _unpacked(data: bytes, name: str) -> bytes:
    engine = zlib.decompressobj(wbits=31)
    try:
        plain = engine.decompress(data, UNPACKED_LIMIT)
    except zlib.error as problem:
        raise InputError(name, say("is damaged: it can't be unpacked ({problem})", problem=problem)) from problem
    if engine.unconsumed_tail:
        raise InputError(
            name,
            say(
                "unpacks to more than {unpacked_limit} MiB, which no drawing does", unpacked_limit=UNPACKED_LIMIT >> 20
            ),
        )
    if not engine.eof:
        raise InputError(name, "is damaged: its compressed data ends early")
    return plain
