"""XML preference files; addresses are simple absolute paths: `/a/b`, `/a/b[2]`, `/a/b/@c`."""

import xml.parsers.expat
from collections import Counter
from collections.abc import Iterator
from xml.sax.saxutils import escape

import tree_sitter
import tree_sitter_xml
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring

from ..errors import FileError
from .span import LIMIT_DEPTH, Encoded, Entry, missing, understood, xml_declared

LANGUAGE = tree_sitter.Language(tree_sitter_xml.language_xml())
_NAMED = {"amp": "&", "lt": "<", "gt": ">", "quot": '"', "apos": "'"}


class XmlFile:
    """An XML file that may be read and changed value by value; entities of its own are refused."""

    def __init__(self, raw: bytes) -> None:
        """Raises FileError with the line of a fault in the syntax."""
        self._file = Encoded.read(raw, declared=xml_declared(raw))
        try:
            fromstring(raw)
        except ParseError as fault:
            line, column = fault.position
            reason = xml.parsers.expat.errors.messages.get(fault.code, str(fault))
            raise FileError(reason, line=line, column=column + 1) from fault
        except DefusedXmlException as fault:
            raise FileError("the file defines entities of its own, which are not read") from fault
        except (ValueError, RecursionError) as fault:
            raise FileError(f"the file cannot be read as XML: {fault}") from fault
        root = understood(tree_sitter.Parser(LANGUAGE).parse(self._file.text).root_node)
        top = next(child for child in root.named_children if child.type == "element")
        self._entries = {entry.at: entry for entry in _walk(top, f"/{_name(top)}", 0)}

    def entries(self) -> list[Entry]:
        """Every addressable value."""
        return list(self._entries.values())

    def get(self, at: str) -> Entry:
        """The value at `at`. Raises FileError where there is none."""
        if at not in self._entries:
            raise missing(at, list(self._entries))
        return self._entries[at]

    def replace(self, at: str, raw: str) -> bytes:
        """The file with the text at `at` replaced, escaped as its place needs."""
        if any(ord(c) < 0x20 and c not in "\t\n\r" for c in raw):
            raise FileError(f"{at}: XML cannot hold control characters")
        entry = self.get(at)
        if entry.kind == "attribute":
            quote = self._file.text[entry.start - 1 : entry.start].decode()
            extra = {
                quote: "&quot;" if quote == '"' else "&apos;",
                "\n": "&#10;",
                "\r": "&#13;",
                "\t": "&#9;",
            }
            return self._file.splice(entry.start, entry.end, escape(raw, extra))
        if entry.kind == "cdata":
            if "]]>" in raw:
                raise FileError(f"{at}: this CDATA section cannot hold ]]>")
            return self._file.splice(entry.start, entry.end, raw)
        text = _guarded(raw)
        if entry.kind == "empty":
            text = f">{text}</{at.rsplit('/', 1)[1].split('[', maxsplit=1)[0]}>"
        return self._file.splice(entry.start, entry.end, text)


def _walk(element: tree_sitter.Node, at: str, depth: int) -> Iterator[Entry]:
    if depth > LIMIT_DEPTH:
        raise FileError(f"the file is nested deeper than {LIMIT_DEPTH}", line=element.start_point.row + 1)
    tag = element.named_children[0]
    yield from _attributes(tag, at)
    if tag.type == "EmptyElemTag":
        close = tag.children[-1]  # the "/>" that a value would replace
        yield Entry(at, "", "empty", close.start_byte, close.end_byte, tag.start_point.row + 1)
        return
    content = next((child for child in element.named_children if child.type == "content"), None)
    children = [c for c in content.named_children if c.type == "element"] if content else []
    if children:
        yield from _children(children, at, depth)
    else:
        yield _text(tag, content, at)


def _children(children: list[tree_sitter.Node], at: str, depth: int) -> Iterator[Entry]:
    seen: Counter[str] = Counter()
    for child in children:
        name = _name(child)
        seen[name] += 1
        place = f"{at}/{name}" if seen[name] == 1 else f"{at}/{name}[{seen[name]}]"
        yield from _walk(child, place, depth + 1)


def _attributes(tag: tree_sitter.Node, at: str) -> Iterator[Entry]:
    for attribute in tag.named_children:
        if attribute.type == "Attribute":
            name, value = attribute.named_children[0], attribute.named_children[1]
            inner = (value.text or b"")[1:-1].decode()
            start, end = value.start_byte + 1, value.end_byte - 1
            yield Entry(
                f"{at}/@{(name.text or b'').decode()}",
                _unescape(inner),
                "attribute",
                start,
                end,
                value.start_point.row + 1,
            )


def _text(tag: tree_sitter.Node, content: tree_sitter.Node | None, at: str) -> Entry:
    line = tag.start_point.row + 1
    if content is None:
        return Entry(at, "", "text", tag.end_byte, tag.end_byte, line)
    sections = [c for c in content.named_children if c.type == "CDSect"]
    inner = (content.text or b"").decode()
    if len(sections) == 1 and inner.startswith("<![CDATA[") and inner.endswith("]]>"):
        return Entry(at, inner[9:-3], "cdata", content.start_byte + 9, content.end_byte - 3, line)
    if any(c.type in ("CDSect", "Comment", "PI") for c in content.named_children):
        return Entry(at, inner, "mixed", content.start_byte, content.end_byte, line)
    stripped = inner.strip()
    # White space around a value is the file's manner, not part of the value: it stays as it is.
    lead = len(inner[: len(inner) - len(inner.lstrip())].encode()) if stripped else 0
    tail = len(inner[len(inner.rstrip()) :].encode()) if stripped else 0
    start, end = content.start_byte + lead, content.end_byte - tail
    return Entry(at, _unescape(stripped), "text", start, end, line)


def _guarded(raw: str) -> str:
    """Escaped text whose own white space at the ends is not taken for the file's manner."""
    inner = raw.strip()
    lead, _, tail = raw.partition(inner) if inner else (raw, "", "")
    ends = ["".join(f"&#{ord(c)};" for c in part) for part in (lead, tail)]
    return ends[0] + escape(inner, {"\r": "&#13;"}) + ends[1]


def _name(element: tree_sitter.Node) -> str:
    names = element.named_children[0].named_children
    return (names[0].text or b"").decode()


def _unescape(text: str) -> str:
    parts = text.split("&")
    return parts[0] + "".join(_reference(part) for part in parts[1:])


def _reference(part: str) -> str:
    name, semicolon, rest = part.partition(";")
    if not semicolon:
        return "&" + part
    if name.startswith("#x"):
        return chr(int(name[2:], 16)) + rest
    if name.startswith("#"):
        return chr(int(name[1:])) + rest
    return _NAMED.get(name, f"&{name};") + rest
