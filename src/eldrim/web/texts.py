"""Every text that pages, refusals and scripts are made of, and what of it is not translated yet.

``python -m eldrim.web.texts`` brings each ``core/words/*/pages.po`` up to date with the code and
tells what is not translated yet; texts that are said nowhere any more go.
"""

import ast
import re
import sys
from collections.abc import Iterator, Mapping
from io import BytesIO

from babel.messages.catalog import Catalog
from babel.messages.pofile import write_po

from eldrim.core.base.quantity import Dimension
from eldrim.core.capture.shapes import SHAPES
from eldrim.core.capture.straighten import CORNERS
from eldrim.core.engine.model import Shape
from eldrim.core.engine.parts import PartKind, RiskLevel
from eldrim.core.figures.listing import FIXED
from eldrim.core.job import Work
from eldrim.core.operations import Operation
from eldrim.core.rules.topics import TOPICS
from eldrim.core.run.entries import EntryKind, Role
from eldrim.core.sums.table import SUMS
from eldrim.core.words.catalogs import OF_ITSELF, PAGES, read, rooms
from eldrim.core.words.language import BASE_LANGUAGE, LANGUAGES
from eldrim.exchange.crib_table import FIELDS
from eldrim.store.audit import ACTS
from eldrim.web.account.routes import DEVICES, UNKNOWN
from eldrim.web.crib.routes import CHOICES as CRIB_CHOICES
from eldrim.web.crib.routes import TYPES as CRIB_TYPES
from eldrim.web.first.todo import STEPS
from eldrim.web.page_words import marked
from eldrim.web.rules.routes import PRICES
from eldrim.web.script_words import PACKAGE, of_script

# Keys that forms offer without a table of their own.
METERS = ("hours", "km", "seasons", "h")
LAYOUT_CHOICES = (
    "four_stroke",
    "two_stroke",
    "across",
    "along",
    "left",
    "right",
    "top",
    "bottom",
    "aluminium",
    "iron",
    "natural",
    "forced",
    "petrol",
    "gas",
    "road",
    "track",
    "stationary",
    "marine",
    "liquid",
    "air",
)
PLUG_CHOICES = (
    "gasket",
    "conical",
    "nickel",
    "multi_ground",
    "fine_wire",
    "surface_gap",
    "bare",
    "zinc",
    "yes",
    "no",
)
SOURCE_KINDS = ("manual", "bulletin", "parts_list", "handbook")
DUE_THINGS = ("coil", "plug", "lead", "boot", "cap", "rotor", "points", "battery", "coil-lead")
# A text; one with a form for many as two.
Text = str | tuple[str, str]
_ASKED = re.compile(r'(?:_words|gettext)\(("(?:[^"\\]|\\.)*")\)')
_COUNTED = re.compile(r'ngettext\(("(?:[^"\\]|\\.)*"), ("(?:[^"\\]|\\.)*")')
WIDTH = 100
WORDS = PACKAGE / "core" / "words"


def said() -> dict[Text, list[str]]:
    """Every text that pages and refusals are made of, with the files that say it."""
    found: dict[Text, list[str]] = {}
    for path in sorted(PACKAGE.rglob("*")):
        texts: Iterator[Text] = iter(())
        if path.suffix == ".py":
            texts = _of_code(path.read_text())
        elif path.suffix == ".js" and "vendor" not in path.parts:
            texts = of_script(path.read_text())
        elif path.suffix == ".jinja" and "web" in path.relative_to(PACKAGE).parts:
            texts = _of_template(path.read_text())
        for text in texts:
            places = found.setdefault(text, [])
            if (place := str(path.relative_to(PACKAGE))) not in places:
                places.append(place)
    for text in _of_tables():
        found.setdefault(str.__str__(text), ["tables"])
    return found


def _of_tables() -> Iterator[str]:
    """Texts of tables that are translated where they are shown."""
    for topic in TOPICS:
        yield from (topic.name, topic.why)
        for school in topic.schools:
            yield from filter(None, (school.name, school.effect, school.refused))
    yield from (words for step in STEPS for words in step[1:3])
    yield from (words for _, words, _ in PRICES)
    yield from (shape.name for shape in SHAPES)
    yield from (*ACTS, *DEVICES, UNKNOWN)
    keys = (key.replace("/", " ").replace("_", " ").replace("-", " ") for key in _keys_shown())
    yield from (
        key for key in keys if re.search("[a-z]{2}", key) and "·" not in key and key != "km"
    )


def _keys_shown() -> Iterator[str]:
    """Inner keys that are shown in words (the filter ``worded``)."""
    for kinds in (PartKind, RiskLevel, Shape, Operation, Role, Work, EntryKind, Dimension):
        yield from (one.value for one in kinds)
    yield from ("Coil", "Lead", "plug", "coil", "lead", "share")
    yield from (*METERS, *LAYOUT_CHOICES, *PLUG_CHOICES, *SOURCE_KINDS, *DUE_THINGS)
    yield from (column for columns in FIELDS.values() for column in columns)
    yield from (one for some in (*CRIB_CHOICES.values(), *CRIB_TYPES.values()) for one in some)
    yield from (*FIXED, *CORNERS)
    yield from ("count", "price", "mark", "note")
    yield from (one for known in SUMS.values() for field in known.fields for one in field.choices)


def _of_template(source: str) -> Iterator[Text]:
    yield from (ast.literal_eval(one) for one in _ASKED.findall(source))
    yield from (
        (ast.literal_eval(one), ast.literal_eval(many)) for one, many in _COUNTED.findall(source)
    )
    found: list[str] = []
    marked(source, found)
    yield from found


def _of_code(source: str) -> Iterator[Text]:
    if "gettext" not in source:
        return
    for node in ast.walk(ast.parse(source)):
        if not isinstance(node, ast.Call):
            continue
        name = ast.unparse(node.func).rpartition(".")[2]
        texts = [one.value for one in node.args[:2] if isinstance(one, ast.Constant)]
        if name in {"gettext", "gettext_noop", "gettext_lazy"} and texts:
            yield str(texts[0])
        elif name == "ngettext" and len(texts) > 1:
            yield (str(texts[0]), str(texts[1]))


def renewed(language: str) -> tuple[Catalog, list[Text]]:
    """The catalog as it ought to be, and what lacks a translation in it."""
    kept = read(language).texts
    made = Catalog(
        locale=language, fuzzy=False, header_comment=f"# Words of pages and refusals: {language}."
    )
    lacking: list[Text] = []
    for text, places in sorted(said().items(), key=lambda item: (item[1][0], str(item[0]))):
        key = text if isinstance(text, str) else text[0]
        found = kept.get(key, "" if isinstance(text, str) else ("", ""))
        if not found or isinstance(found, str) != isinstance(text, str) or not all(found):
            lacking.append(text)
        made.add(text, found, locations=[(place, 0) for place in places[:1]])
    return made, lacking


def with_english(room: Catalog, english: Catalog) -> Catalog:
    """Sentences of a language as they ought to be: in the order of the English ones, each with what
    it says there beside it; empty where one is still to be said.
    """
    made = Catalog(locale=room.locale, fuzzy=False, header_comment=english.header_comment)
    for message in english:
        if message.id:
            kept = room.get(message.id)
            made.add(message.id, kept.string if kept else "", auto_comments=[str(message.string)])
    return made


def written(catalog: Catalog, width: int = WIDTH) -> bytes:
    """A catalog as its file, without what changes from day to day."""
    out = BytesIO()
    write_po(out, catalog, width=width, omit_header=True, include_lineno=False)
    head = 'msgid ""\nmsgstr ""\n"Content-Type: text/plain; charset=utf-8\\n"\n'
    head += f'"Language: {catalog.locale}\\n"\n"Plural-Forms: nplurals=2; plural=(n != 1);\\n"\n\n'
    return head.encode() + out.getvalue()


def renew(language: str, english: Mapping[str, Catalog]) -> Iterator[str]:
    """Write every file of a language anew; what it still lacks, by file and name or text."""
    kept = dict(rooms(language))
    for room in sorted(english.keys() - {OF_ITSELF}):
        made = with_english(kept.get(room, Catalog(locale=language)), english[room])
        head = f"{english[room].header_comment}\n".encode()
        (WORDS / language / f"{room}.po").write_bytes(head + written(made, width=0))
        lacking = [message.id for message in made if message.id and not message.string]
        yield from (f"{language}/{room}.po: {name}" for name in lacking)
    pages, untranslated = renewed(language)
    (WORDS / language / f"{PAGES}.po").write_bytes(written(pages))
    yield from (f"{language}/{PAGES}.po: {text!r}" for text in untranslated)


def main() -> int:
    """Renew every language; 1 where one lacks something."""
    english = dict(rooms(BASE_LANGUAGE))
    others = sorted(set(LANGUAGES) - {BASE_LANGUAGE})
    lacking = [line for language in others for line in renew(language, english)]
    print("\n".join(lacking))
    return int(bool(lacking))


if __name__ == "__main__":
    sys.exit(main())
