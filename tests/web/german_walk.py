"""What a page says, and which of it is English that is nobody's data."""

import re
from collections.abc import Iterable, Iterator
from html.parser import HTMLParser

READ = ("title", "aria-label", "placeholder", "alt")
UNREAD = {"script", "style", "code", "kbd", "datalist"}
# Words that English cannot do without and German does not have.
ENGLISH = re.compile(
    r"\b(the|and|of|with|to|is|are|not|for|its?|each|every|before|once|off|no|nothing|from|by|has|"
    r"have|this|that|these|those|which|what|when|where|who|here|there|yet|all|some|other|others|"
    r"takes?|say|says|show|keep|change|changed|open|opened|found|read|done|run|runs|left|"
    r"new|later|only|on|or|at|be|can|will|would|plugs?|wrench|coils?|holes?|leads?|bay|bays|"
    r"tools?|units?|edition|sheet|figures?|steps?|minutes|technician)\b",
    re.IGNORECASE,
)


class Said(HTMLParser):
    """Collects the texts of a page, each with the language of the element it stands in."""

    def __init__(self) -> None:
        super().__init__()
        self.texts: list[str] = []
        self._open: list[tuple[str, str]] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        """An element begins; its read attributes are texts too."""
        given = dict(attrs)
        language = given.get("lang") or (self._open[-1][1] if self._open else "de")
        if language == "de":
            self.texts += [given[name] or "" for name in READ if name in given]
        if tag not in {"input", "meta", "link", "br", "img", "hr", "col"}:
            self._open.append((tag, language))

    def handle_endtag(self, tag: str) -> None:
        """An element ends, and with it whatever was not closed in it."""
        while self._open and self._open.pop()[0] != tag:
            pass

    def handle_data(self, data: str) -> None:
        """A text, where people read it in the page's language."""
        tags = {tag for tag, _ in self._open}
        if tags & UNREAD or (self._open and self._open[-1][1] != "de"):
            return
        if data.strip():
            self.texts.append(re.sub(r"\s+", " ", data.strip()))


def leaves(value: object) -> Iterator[str]:
    """Every text in a document."""
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict):
        for inner in value.values():
            yield from leaves(inner)
    elif isinstance(value, list | tuple):
        for inner in value:
            yield from leaves(inner)


def english_left(page: str, data: Iterable[str]) -> list[str]:
    """The texts of a page that are English once everybody's data is taken out of them."""
    said = Said()
    said.feed(page)
    known = sorted({one for one in data if len(one) > 2}, key=len, reverse=True)
    return [text for text in said.texts if ENGLISH.search(_without(text, known))]


def _without(text: str, known: list[str]) -> str:
    """A text without what is known of it, whole words only."""
    if not ENGLISH.search(text):
        return ""
    for one in known:
        if one in text:
            text = re.sub(rf"(?<!\w){re.escape(one)}(?!\w)", "·", text)
    return text
