"""XML preference files; addresses are simple absolute paths: `/a/b`, `/a/b[2]`, `/a/b/@c`."""

import re
import xml.parsers.expat
from collections import Counter
from collections.abc import Iterator
from typing import ClassVar
from xml.sax.saxutils import escape

import tree_sitter
import tree_sitter_xml
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring

from ..base.errors import FileError
from .span import LIMIT_DEPTH, Edit, Encoded, Entry, Scalar, TextPreferenceFile, indent_before, too_deep, understood

LANGUAGE = tree_sitter.Language(tree_sitter_xml.language_xml())
_NAMED = {"amp": "&", "lt": "<", "gt": ">", "quot": '"', "apos": "'"}
_NAME = re.compile(r"[A-Za-z_][\w.-]*(:[A-Za-z_][\w.-]*)?")


class XmlFile(TextPreferenceFile):
    """An XML file that may be read and changed value by value; entities of its own are refused."""

    format: ClassVar[str] = "XML"

    def __init__(self, raw: bytes) -> None:
        """Raises FileError with the line of a fault in the syntax."""
        self._file, top = read_tree(raw)
        self._holders: dict[str, tree_sitter.Node] = {}
        self._entries = {entry.at: entry for entry in self._walk(top, f"/{tag_name(top)}", 0)}

    def _as_read(self, value: Scalar) -> Scalar:
        return Scalar("text", value.raw)

    def _spelled(self, entry: Entry, value: Scalar) -> str:
        raw = value.raw
        holdable(entry.at, raw)
        if entry.form == "attribute":
            return attribute_text(raw, self._file.text[entry.start - 1 : entry.start].decode())
        if entry.form == "cdata":
            if "]]>" in raw:
                raise FileError(f"{entry.at}: this CDATA section cannot hold ]]>")
            return raw
        if entry.form == "mixed":
            raise FileError(f"{entry.at}: comments stand inside this value; change it by hand")
        text = _guarded(raw)
        return f">{text}</{_last_name(entry.at)}>" if entry.form == "empty" else text

    def _walk(self, element: tree_sitter.Node, at: str, depth: int) -> Iterator[Entry]:
        if depth > LIMIT_DEPTH:
            raise too_deep(element.start_point.row + 1)
        self._holders[at] = element
        tag = element.named_children[0]
        yield from _attributes(tag, at)
        if tag.type == "EmptyElemTag":
            close = tag.children[-1]  # the "/>" that a value would replace
            yield Entry(at, "", "text", close.start_byte, close.end_byte, tag.start_point.row + 1, "empty")
            return
        children = child_elements(element)
        if not children:
            yield text_entry(element, at)
            return
        seen: Counter[str] = Counter()
        for child in children:
            name = tag_name(child)
            seen[name] += 1
            yield from self._walk(child, _numbered(f"{at}/{name}", seen[name]), depth + 1)

    def _additions(self, at: str, value: Scalar) -> list[Edit]:
        holdable(at, value.raw)
        holder, _, name = at.rpartition("/")
        if name.startswith("@"):
            return self._attribute(holder, name[1:], value.raw, at)
        inner = _guarded(value.raw)
        while holder not in self._holders:
            if not holder:
                raise FileError(f"{at} cannot be added: the file's root is {next(iter(self._holders))}")
            inner = _element(name, inner)
            holder, _, name = holder.rpartition("/")
        bare = name.partition("[")[0]
        number = 1
        while _numbered(f"{holder}/{bare}", number) in self._holders:
            number += 1
        if _numbered(f"{holder}/{bare}", number) != f"{holder}/{name}":
            raise FileError(f"{at} cannot be added: the next is {_numbered(f'{holder}/{bare}', number)}")
        return self._child(self._holders[holder], holder, _element(bare, inner))

    def _attribute(self, holder: str, name: str, raw: str, at: str) -> list[Edit]:
        if holder not in self._holders:
            raise FileError(f"{at} cannot be added: there is no {holder}")
        _check_name(name)
        tag = self._holders[holder].named_children[0]
        attributes = [child for child in tag.named_children if child.type == "Attribute"]
        last = attributes[-1] if attributes else tag.named_children[0]
        quote = self._file.text[last.end_byte - 1 : last.end_byte].decode() if attributes else '"'
        return [(last.end_byte, last.end_byte, f" {name}={quote}{attribute_text(raw, quote)}{quote}")]

    def _child(self, element: tree_sitter.Node, at: str, child: str) -> list[Edit]:
        children = child_elements(element)
        if children:
            return [after(self._file, children, child)]
        entry = self._entries[at]
        if entry.raw or entry.form == "mixed":
            raise FileError(f"{at} holds text, so nothing can be added inside it")
        close = f"</{_last_name(at)}>"
        text = f">{child}{close}" if entry.form == "empty" else child
        return [(entry.start, entry.end, text)]


def read_tree(raw: bytes) -> tuple[Encoded, tree_sitter.Node]:
    """The file's text and its root element. Raises FileError."""
    file = Encoded.read(raw, declared=xml_declared(raw))
    try:
        fromstring(raw)
    except ParseError as fault:
        line, column = fault.position
        reason = xml.parsers.expat.errors.messages.get(fault.code, str(fault))
        raise FileError(reason, line=line, column=column + 1) from fault
    except DefusedXmlException as fault:
        raise FileError("the file defines entities of its own, which are not read") from fault
    except (ValueError, RecursionError, LookupError) as fault:
        raise FileError(f"the file cannot be read as XML: {fault}") from fault
    root = understood(tree_sitter.Parser(LANGUAGE).parse(file.text).root_node)
    return file, next(child for child in root.named_children if child.type == "element")


def xml_declared(raw: bytes) -> str:
    """The encoding an XML declaration names (XML 1.0, 4.3.3), else empty for a file that marks its own, else UTF-8."""
    match = re.match(rb"""<\?xml[^>]*?encoding\s*=\s*["']([A-Za-z0-9._-]+)["']""", raw)
    if match:
        return match.group(1).decode()
    return "" if 0 in raw[:2] else "utf-8"


def child_elements(element: tree_sitter.Node) -> list[tree_sitter.Node]:
    """The elements inside an element."""
    content = next((child for child in element.named_children if child.type == "content"), None)
    return [child for child in content.named_children if child.type == "element"] if content else []


def after(file: Encoded, children: list[tree_sitter.Node], new: str) -> Edit:
    """`new` behind the last of the children, on a line of its own where that has one."""
    last = children[-1]
    indent = indent_before(file.text, last.start_byte)
    lead = "" if indent is None else f"{file.line_end}{indent}"
    return last.end_byte, last.end_byte, lead + new


def tag_name(element: tree_sitter.Node) -> str:
    """The element's name, with its prefix."""
    names = element.named_children[0].named_children
    return (names[0].text or b"").decode()


def holdable(at: str, raw: str) -> None:
    """Raises FileError for characters that XML 1.0 cannot say at all."""
    if any((ord(c) < 0x20 and c not in "\t\n\r") or c in "\ufffe\uffff" for c in raw):
        raise FileError(f"{at}: XML cannot hold control characters")


def attribute_text(raw: str, quote: str) -> str:
    """Escaped for an attribute in that quote."""
    return escape(raw, {quote: "&quot;" if quote == '"' else "&apos;", "\n": "&#10;", "\r": "&#13;", "\t": "&#9;"})


def text_entry(element: tree_sitter.Node, at: str) -> Entry:
    """The text of an element without elements inside."""
    tag = element.named_children[0]
    line = tag.start_point.row + 1
    content = next((child for child in element.named_children if child.type == "content"), None)
    if content is None:
        return Entry(at, "", "text", tag.end_byte, tag.end_byte, line)
    breaks = [child for child in content.named_children if child.type in ("CDSect", "Comment", "PI")]
    if not breaks:
        return _trimmed(at, content.text or b"", content.start_byte, line)
    return _broken_text(content, breaks, at, line)


def _broken_text(content: tree_sitter.Node, breaks: list[tree_sitter.Node], at: str, line: int) -> Entry:
    """Text with comments or literal sections in it: one section, one run of text among comments, or all as it is."""
    inner, first = content.text or b"", content.start_byte
    if breaks[0].type == "CDSect" and inner == breaks[0].text:
        start, end = first + len(b"<![CDATA["), content.end_byte - len(b"]]>")
        return Entry(at, inner[9:-3].decode(), "text", start, end, line, "cdata")
    texts = _runs(content, breaks)
    if len(texts) == 1 and all(node.type != "CDSect" for node in breaks):
        start, run = texts[0]  # comments before or behind the value are not part of it
        return _trimmed(at, run, first + start, line)
    return Entry(at, inner.decode(), "text", first, content.end_byte, line, "mixed")


def _runs(content: tree_sitter.Node, breaks: list[tree_sitter.Node]) -> list[tuple[int, bytes]]:
    """The pieces of text between comments and the like that hold more than white space, with where they begin."""
    inner, first = content.text or b"", content.start_byte
    begins = [0, *(node.end_byte - first for node in breaks)]
    ends = [*(node.start_byte - first for node in breaks), len(inner)]
    runs = [(begin, inner[begin:end]) for begin, end in zip(begins, ends, strict=True)]
    return [(begin, run) for begin, run in runs if run.strip()]


def _trimmed(at: str, inner: bytes, start: int, line: int) -> Entry:
    # White space around a value is the file's manner, not part of the value: it stays as it is.
    stripped = inner.strip(b" \t\r\n")
    lead = len(inner) - len(inner.lstrip(b" \t\r\n")) if stripped else 0
    length = len(stripped) if stripped else len(inner)
    # A carriage return in the file is read as a line feed (XML 1.0, 2.11).
    text = stripped.decode().replace("\r\n", "\n").replace("\r", "\n")
    return Entry(at, _unescape(text), "text", start + lead, start + lead + length, line)


def _attributes(tag: tree_sitter.Node, at: str) -> Iterator[Entry]:
    for attribute in tag.named_children:
        if attribute.type == "Attribute":
            name, value = attribute.named_children[0], attribute.named_children[1]
            # Blanks of any sort in the file are read as spaces (XML 1.0, 3.3.3).
            inner = re.sub(r"\r\n|[\r\n\t]", " ", (value.text or b"")[1:-1].decode())
            place = f"{at}/@{(name.text or b'').decode()}"
            line = value.start_point.row + 1
            yield Entry(place, _unescape(inner), "text", value.start_byte + 1, value.end_byte - 1, line, "attribute")


def _numbered(at: str, number: int) -> str:
    return at if number == 1 else f"{at}[{number}]"


def _element(name: str, inner: str) -> str:
    bare = name.partition("[")[0]
    _check_name(bare)
    if name not in (bare, f"{bare}[1]"):
        raise FileError(f"{name} cannot be added: there is no {bare} before it")
    return f"<{bare}>{inner}</{bare}>"


def _check_name(name: str) -> None:
    if not _NAME.fullmatch(name):
        raise FileError(f"{name!r} is no name that XML can hold")


def _last_name(at: str) -> str:
    return at.rsplit("/", 1)[1].split("[", maxsplit=1)[0]


def _guarded(raw: str) -> str:
    """Escaped text whose own white space at the ends is not taken for the file's manner."""
    inner = raw.strip(" \t\r\n")
    lead, _, tail = raw.partition(inner) if inner else (raw, "", "")
    ends = ["".join(f"&#{ord(c)};" for c in part) for part in (lead, tail)]
    return ends[0] + escape(inner, {"\r": "&#13;"}) + ends[1]


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
