"""Words of pages in the language of who reads them.

A template is written in English. When it is loaded, each run of words between two tags of HTML or
of the template becomes one message, with what is filled in as its slots and links and emphasis
inside it as tags of the message::

    Only <b>{{ kept }}</b> of them, <a href="{{ all }}">see all</a>.

is the message ``Only <b>{kept}</b> of them, <a>see all</a>.`` So no template can forget to ask for
a translation, and none is made harder to read by asking. Words in expressions, as in
``{{ "yes" if x }}``, and in the attributes people read are found as well.
"""

import json
import re
from collections.abc import Iterator
from dataclasses import dataclass, field

from jinja2.ext import Extension
from markupsafe import Markup

from eldrim.core.words.messages import gettext

# Tags that stand inside a sentence.
INLINE = frozenset(
    ("a", "b", "strong", "em", "i", "small", "code", "kbd", "abbr", "span", "sub", "sup", "mark")
)
READ_ATTRIBUTES = ("title", "aria-label", "placeholder", "alt", "label")
# What is inside these is no sentence.
_OPAQUE = ("script", "style")

# What the template's engine reads.
_TEMPLATE = re.compile(r"{{.*?}}|{%.*?%}|{#.*?#}", re.S)
_PIECE = re.compile(r"{#.*?#}|{%.*?%}|{{.*?}}|<!--.*?-->|<(?=[a-zA-Z/!])", re.S)
_LITERAL = re.compile(
    r"(?P<text>\"(?:\\.|[^\"\\])*\"|'(?:\\.|[^'\\])*')|(?P<name>[A-Za-z_][\w.]*)|(?P<other>\d+|\S)"
)
_WORDS = re.compile(r"[^\W\d_]{2,}")
# A block that holds names of styles.
_NAMES = re.compile(r"{%-?\s*(block body_class|endblock)")
_TAG_NAME = re.compile(r"</?\s*([a-zA-Z][\w-]*)")
_MESSAGE_TAG = re.compile(r"<(/?)([a-z]+)(\d*)>")


@dataclass(frozen=True)
class Piece:
    """A piece of a template: text, ``expr``, ``block``, ``comment`` or ``tag``."""

    kind: str
    source: str

    @property
    def tag(self) -> str:
        """The name of a tag, in small letters."""
        found = _TAG_NAME.match(self.source)
        return found[1].lower() if found and self.kind == "tag" else ""

    @property
    def closes(self) -> bool:
        """Whether a tag ends its element."""
        return self.source.startswith("</")

    @property
    def fits_inside(self) -> bool:
        """Whether it can stand inside a message."""
        if self.kind == "tag":
            return self.tag in INLINE and "{%" not in self.source
        return self.kind in {"text", "expr"}


def pieces(source: str) -> Iterator[Piece]:
    """Cut a template into its pieces, in order; together they are the whole."""
    at = 0
    while at < len(source):
        found = _PIECE.search(source, at)
        if found is None:
            yield Piece("text", source[at:])
            return
        if found.start() > at:
            yield Piece("text", source[at : found.start()])
        kind = {"{#": "comment", "{%": "block", "{{": "expr"}.get(found[0][:2], "comment")
        end = found.end()
        if found[0] == "<":
            kind, end = "tag", _end_of_tag(source, found.start())
        yield Piece(kind, source[found.start() : end])
        at = end


def _end_of_tag(source: str, start: int) -> int:
    """The place behind the ``>`` that ends a tag, past quotes and what is filled in."""
    at, quote = start + 1, ""
    while at < len(source):
        inner = _TEMPLATE.match(source, at)
        if inner:
            at = inner.end()
            continue
        letter = source[at]
        if quote:
            quote = "" if letter == quote else quote
        elif letter in "\"'":
            quote = letter
        elif letter == ">":
            name = _TAG_NAME.match(source, start)
            if name and name[1].lower() in _OPAQUE and source[start + 1] != "/":
                closing = source.lower().find(f"</{name[1].lower()}", at)
                return closing if closing >= 0 else len(source)
            return at + 1
        at += 1
    return len(source)


@dataclass
class Message:
    """A message while it is put together: its text, and what fills its slots."""

    text: str = ""
    slots: dict[str, str] = field(default_factory=dict)

    def slot(self, wanted: str, expression: str) -> str:
        """The name of a slot for an expression; the same expression has the same one."""
        name, number = wanted, 1
        while self.slots.get(name, expression) != expression:
            number += 1
            name = f"{wanted}{number}"
        self.slots[name] = expression
        return name


class PageWords(Extension):
    """Marks the words of each template as it is loaded (Jinja extension)."""

    def preprocess(self, source: str, name: str | None, filename: str | None = None) -> str:
        """The template with its words asked for by message. ``name`` ends in ``.jinja``."""
        return marked(source, [])


def marked(source: str, found: list[str]) -> str:
    """The template with its words asked for; every message is added to ``found``."""
    out: list[str] = []
    run: list[Piece] = []
    names = False
    for piece in pieces(source):
        if piece.kind == "block" and _NAMES.search(piece.source):
            names = "endblock" not in piece.source
        if piece.fits_inside and not names:
            run.append(piece)
            continue
        out.append(_run(run, found))
        run = []
        marks = {"tag": _attributes, "block": _block}.get(piece.kind)
        out.append(marks(piece.source, found) if marks else piece.source)
    out.append(_run(run, found))
    return "".join(out)


def _run(run: list[Piece], found: list[str]) -> str:
    """Pieces that follow on each other inside one element."""
    partner = _partners(run)
    stray = next((i for i, p in enumerate(run) if p.kind == "tag" and i not in partner), None)
    if stray is not None:
        before, after = run[:stray], run[stray + 1 :]
        tag = _attributes(run[stray].source, found)
        return _run(before, found) + tag + _run(after, found)
    if _says_something(run, partner):
        return _sentence(run, found)
    out, at = [], 0
    while at < len(run):
        piece = run[at]
        if piece.kind == "tag":
            end = partner[at]
            inside = _run(run[at + 1 : end], found)
            out.append(f"{_attributes(piece.source, found)}{inside}{run[end].source}")
            at = end
        else:
            out.append(_expression(piece.source, found) if piece.kind == "expr" else piece.source)
        at += 1
    return "".join(out)


def _partners(run: list[Piece]) -> dict[int, int]:
    """Where each inline element of a run ends, by where it begins; and the other way."""
    opened: list[int] = []
    partner: dict[int, int] = {}
    for at, piece in enumerate(run):
        if piece.kind != "tag":
            continue
        if not piece.closes:
            opened.append(at)
        elif opened and run[opened[-1]].tag == piece.tag:
            begin = opened.pop()
            partner[begin], partner[at] = at, begin
    return partner


def _says_something(run: list[Piece], partner: dict[int, int]) -> bool:
    """Whether words stand outside the elements of a run, so that all of it is one sentence."""
    at = 0
    while at < len(run):
        if run[at].kind == "tag":
            at = partner[at]
        elif run[at].kind == "text" and _WORDS.search(_entities_away(run[at].source)):
            return True
        at += 1
    return False


def _entities_away(text: str) -> str:
    return re.sub(r"&\w+;", "", text)


def _sentence(run: list[Piece], found: list[str]) -> str:
    """A run as one message; the blanks round it and the number of its lines stay."""
    message = Message()
    tags: list[str] = []
    numbers: dict[str, int] = {}
    for piece in run:
        if piece.kind == "text":
            message.text += re.sub(r"\s+", " ", piece.source.replace("{", "{{").replace("}", "}}"))
        elif piece.kind == "expr":
            inside = _wrapped(_inner(piece.source), found)
            message.text += f"{{{message.slot(_slot_name(inside), inside)}}}"
        elif piece.closes:
            message.text += f"</{tags.pop()}>"
        else:
            tag = piece.tag
            if " " in piece.source:
                numbers[tag] = numbers.get(tag, 0) + 1
                tag += str(numbers[tag]) if numbers[tag] > 1 else ""
                message.slots[f"tag_{tag}"] = _as_expression(_attributes(piece.source, found))
            tags.append(tag)
            message.text += f"<{tag}>"
    text, whole = message.text.strip(), "".join(piece.source for piece in run)
    if '="' in text:
        # A macro that makes attributes.
        return whole
    found.append(text)
    before, after = re.match(r"\s*", whole), re.search(r"\s*$", whole)
    asked = _call("_page", text, message.slots)
    lines = "\n" * (whole.strip().count("\n") - asked.count("\n"))
    asked = _call("_page", text, message.slots, lines)
    return f"{before[0] if before else ''}{asked}{after[0] if after else ''}"


def _call(function: str, text: str, slots: dict[str, str], lines: str = "") -> str:
    filled = "".join(f", {name}=({expression})" for name, expression in slots.items())
    return f"{{{{ {function}({json.dumps(text, ensure_ascii=False)}{filled}{lines}) }}}}"


def _as_expression(tag: str) -> str:
    """A tag with what is filled in, as one expression."""
    parts = []
    for piece in re.split(r"({{.*?}})", tag, flags=re.S):
        if piece.startswith("{{"):
            parts.append(f"({_inner(piece)})")
        elif piece:
            parts.append(f"({json.dumps(piece, ensure_ascii=False)}|safe)")
    return " ~ ".join(parts)


def _inner(expression: str) -> str:
    return expression.removeprefix("{{").removesuffix("}}").strip("- \n\t")


def _expression(source: str, found: list[str]) -> str:
    """``{{ … }}`` with its words asked for."""
    inside = _inner(source)
    wrapped = _wrapped(inside, found)
    return source if wrapped == inside else source.replace(inside, wrapped)


def _wrapped(expression: str, found: list[str]) -> str:
    """An expression whose words to be read are asked for: what it may come to, not what it asks."""
    tokens = list(_LITERAL.finditer(expression))
    out, end = [], 0
    for at, token in enumerate(tokens):
        if token["text"] is None or not _is_said(tokens, at):
            continue
        text = token["text"][1:-1]
        if not _WORDS.search(text) or "\\" in text:
            continue
        found.append(text.strip())
        before, after = re.match(r"\s*", text), re.search(r"\s*$", text)
        asked = f"_words({json.dumps(text.strip(), ensure_ascii=False)})"
        blanks = [json.dumps(one[0]) if one and one[0] else "" for one in (before, after)]
        joined = " ~ ".join(part for part in (blanks[0], asked, blanks[1]) if part)
        out.append(expression[end : token.start()] + (f"({joined})" if " ~ " in joined else joined))
        end = token.end()
    return "".join(out) + expression[end:]


_LISTS = re.compile(r"{%-?\s*(set|for)\b")


def _block(source: str, found: list[str]) -> str:
    """A list or a name that a template sets, with the labels in it asked for."""
    if not _LISTS.match(source):
        return source

    def asked(match: re.Match[str]) -> str:
        text = match[0][1:-1]
        before = source[: match.start()].rstrip()
        if before[-1:] not in "[(,~=" and not before.endswith("else"):
            return match[0]
        if before.endswith("==") or not _is_label(text) or not _WORDS.search(text):
            return match[0]
        if re.search(r"[\w)\]]\([^()]*$", before):
            return match[0]
        found.append(text)
        return f"_words({json.dumps(text, ensure_ascii=False)})"

    return re.sub(r"\"[^\"]*\"", asked, source)


_BEFORE_SAID = ("", "(", "else", "~", "or", ":")
_AFTER_SAID = ("", ")", "if", "else", "~", "|", "}", ",")


def _is_said(tokens: list[re.Match[str]], at: int) -> bool:
    """Whether a literal is what an expression comes to, not a key or an argument."""
    before = tokens[at - 1][0] if at else ""
    after = tokens[at + 1][0] if at + 1 < len(tokens) else ""
    called = _called(tokens, at)
    if called is None:
        return before in _BEFORE_SAID and after in _AFTER_SAID
    if before == "=":
        return tokens[at - 2][0] == "placeholder"
    return called.islower() and called not in _ASKS and _is_label(tokens[at][0][1:-1])


# What is asked for by name, so that what it is handed is no label.
_ASKS = {"say", "hidden", "ngettext", "_words"}


def _called(tokens: list[re.Match[str]], at: int) -> str | None:
    """What a place is handed to: the name of a macro, ``"|"`` for a filter; None for nothing."""
    calls: list[str | None] = []
    for place, token in enumerate(tokens[:at]):
        if token[0] in {"(", "["}:
            calls.append(_name_called(tokens, place))
        elif token[0] in {")", "]"} and calls:
            calls.pop()
    return next((one for one in reversed(calls) if one is not None), None)


def _name_called(tokens: list[re.Match[str]], at: int) -> str | None:
    before = tokens[at - 1] if at else None
    if before is None:
        return None
    if before["name"] is None:
        return "|" if before[0] in {")", "]"} else None
    if before["name"] in {"if", "else", "or", "and", "not", "in", "is"}:
        return None
    filtered = at > 1 and tokens[at - 2][0] == "|"
    return "|" if filtered or "." in before["name"] else before["name"]


def _is_label(text: str) -> bool:
    """Whether a text handed to a macro or standing in a list is to be read, not a key."""
    return bool(re.match(r"[A-Z][a-z]", text)) or " " in text.strip()


def _slot_name(expression: str) -> str:
    """What a slot is called: as what fills it, where that has a name."""
    named = re.match(r"[A-Za-z_][\w.]*", expression)
    if named is None or named[0].startswith(("_words", "say", "loop", "hidden", "not")):
        return "value"
    return (
        named[0].rsplit(".", 1)[-1]
        if named[0].count(".") < 2
        else "_".join(named[0].split(".")[-2:])
    )


def _attributes(tag: str, found: list[str]) -> str:
    """A tag whose attributes that people read are asked for."""
    for name in READ_ATTRIBUTES:
        tag = re.sub(rf'(?<=\s){name}="((?:{{{{.*?}}}}|[^"{{])*)"', _attribute(name, found), tag)
    return tag


def _attribute(name: str, found: list[str]):  # type: ignore[no-untyped-def]
    def made(match: re.Match[str]) -> str:
        message = Message()
        for part in re.split(r"({{.*?}})", match[1], flags=re.S):
            if part.startswith("{{"):
                inside = _wrapped(_inner(part), found)
                message.text += f"{{{message.slot(_slot_name(inside), inside)}}}"
            else:
                message.text += re.sub(r"\s+", " ", part)
        if not _WORDS.search(re.sub(r"{\w+}", "", message.text)):
            only = re.sub(r"{{.*?}}", lambda one: _expression(one[0], found), match[1], flags=re.S)
            return f'{name}="{only}"'
        found.append(message.text)
        lines = "\n" * match[1].count("\n")
        # Quotes of the expression end no attribute: the template's engine reads it first.
        return f'{name}="{_call("_attribute", message.text, message.slots, lines)}"'

    return made


def page_words(text: str, /, **slots: object) -> Markup:
    """A message of a page as HTML: slots are escaped, its tags get their attributes back."""

    def tag(match: re.Match[str]) -> str:
        end, name, number = match.groups()
        given = slots.get(f"tag_{name}{number}")
        return f"<{end}{name}>" if end or given is None else f"{{tag_{name}{number}}}"

    said = _MESSAGE_TAG.sub(tag, gettext(text))
    return Markup(said).format(**slots)


def attribute_words(text: str, /, **slots: object) -> str:
    """A message of an attribute, as text."""
    return gettext(text, **slots)
