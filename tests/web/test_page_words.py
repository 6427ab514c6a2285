"""Words of templates are found as they are loaded, and come back in another language."""

from collections.abc import Iterator

import pytest
from jinja2 import Environment, StrictUndefined
from markupsafe import Markup

from eldrim.core.words.catalogs import CATALOGS, Catalog, Text, read, rooms
from eldrim.core.words.language import LANGUAGES, LanguageFacts, reading_in
from eldrim.core.words.messages import gettext, gettext_lazy, ngettext
from eldrim.web import script_words, texts
from eldrim.web.page_words import PageWords, attribute_words, marked, page_words

PAGES = Environment(autoescape=True, undefined=StrictUndefined, extensions=[PageWords])
PAGES.globals.update(_page=page_words, _attribute=attribute_words, _words=gettext)
PAGES.filters["svg"] = Markup


@pytest.fixture(autouse=True)
def shouting(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """A language that is English backwards, word by word, slots and tags kept."""
    monkeypatch.setitem(LANGUAGES, "xx", LanguageFacts("Loud", ".", lower_nouns=True))
    yield
    CATALOGS.pop("xx", None)


def found_in(source: str) -> list[str]:
    """The messages of a template."""
    found: list[str] = []
    marked(source, found)
    return found


def rendered(source: str, catalog: dict[str, Text], **given: object) -> str:
    """A template in a language of this catalog."""
    CATALOGS["xx"] = Catalog(texts=catalog)
    with reading_in("xx"):
        return PAGES.from_string(source).render(**given)


@pytest.mark.parametrize(
    ("source", "said"),
    [
        ("<p>Nothing is kept.</p>", ["Nothing is kept."]),
        ("<p>  Two\n   lines </p>", ["Two lines"]),
        ("<p>{{ unit.name }} alone.</p>", ["{name} alone."]),
        ("<b>{{ n }}</b> of <a href='/x'>them</a>", ["<b>{n}</b> of <a>them</a>"]),
        ("<a href='/a'>PDF</a>, <a href='/b'>JSON</a>", ["PDF", "JSON"]),
        ("<dt>unit</dt><dd>{{ u }}</dd>", ["unit"]),
        ("{{ a }} · {{ b }}", []),
        ("{% if a %}Yes, {% else %}No{% endif %}", ["Yes,", "No"]),
        ("{{ 'set' if a else 'none yet' }}", ["set", "none yet"]),
        ("{{ words['key'] }}{{ values.get('role') }}{{ a == 'signed' }}", []),
        ('<input placeholder="any words" class="form">', ["any words"]),
        ('<b title="{{ n }} more">{{ n }}</b>', ["{n} more"]),
        ('{{ field("Part no", "part", type="search", placeholder="all") }}', ["Part no", "all"]),
        ('{% set counts = [("held", "Held back"), ("due", "Due")] %}', ["Held back", "Due"]),
        ('{% if words == "All of it" %}{% endif %}', []),
        ("<script>const a = 'Not this';</script><style>p { color: red }</style>", []),
        ("<p>use {hole} here</p>", ["use {{hole}} here"]),
        ("{% block body_class %}desk at-arm{% endblock %}", []),
        ("<p>{{ svg|svg }}</p>", []),
    ],
)
def test_each_run_of_words_is_one_message(source: str, said: list[str]) -> None:
    """With slots for what is filled in, and links inside it."""
    assert found_in(source) == said


def test_lines_stay_where_they_were() -> None:
    """So that a fault in a template names its line."""
    source = "<p>One\n  two {{ a }}\n  three</p>\n{{ 'x' if a\n  else 'none of it' }}\n"
    assert marked(source, []).count("\n") == source.count("\n")


def test_a_sentence_comes_back_in_another_order_with_its_links_and_escaped() -> None:
    """What was filled in stays text; a link keeps its address."""
    source = '<p>Only <b>{{ n }}</b> of <a href="/u/{{ key }}">{{ name }}</a>.</p>'
    catalog = {"Only <b>{n}</b> of <a>{name}</a>.": "<a>{name}</a>: ylno <b>{n}</b>!"}
    shown = rendered(source, catalog, n=2, key="a&b", name="<Tug>")
    assert shown == '<p><a href="/u/a&amp;b">&lt;Tug&gt;</a>: ylno <b>2</b>!</p>'
    assert rendered(source, {}, n=2, key="k", name="N") == (
        '<p>Only <b>2</b> of <a href="/u/k">N</a>.</p>'
    )


def test_counts_choose_their_form_and_tables_are_translated_when_shown() -> None:
    """A text of a table compares and is kept as it is written."""
    said: dict[str, Text] = {"{count} run": ("{count} nur", "{count} snur"), "set aside": "edisa"}
    CATALOGS["xx"] = Catalog(texts=said)
    word = gettext_lazy("set aside")
    with reading_in("xx"):
        assert ngettext("{count} run", "{count} runs", 1) == "1 nur"
        assert ngettext("{count} run", "{count} runs", 3) == "3 snur"
        assert f"{word}" == "edisa"
        assert rendered("{{ word }}", {"set aside": "<edisa>"}, word=word) == "&lt;edisa&gt;"
    assert word == "set aside"
    assert f"{word}" == "set aside"


def test_every_text_is_in_every_catalog_with_no_slot_of_its_own() -> None:
    """`python -m eldrim.web.texts` brings them up to date and tells what lacks."""
    others = sorted(set(LANGUAGES) - {"en", "xx"})
    assert sorted(path.parent.name for path in texts.WORDS.glob("*/pages.po")) == others
    for language in others:
        renewed, lacking = texts.renewed(language)
        assert lacking == []
        kept = {str(message.id) for message in dict(rooms(language))["pages"] if message.id}
        assert kept == {str(message.id) for message in renewed if message.id}
        for text, said in read(language).texts.items():
            for one in (said,) if isinstance(said, str) else said:
                assert script_words.slots(one) <= script_words.slots(text) | {"count"}, text
                assert sorted(script_words.tags(one)) == sorted(script_words.tags(text)), text
