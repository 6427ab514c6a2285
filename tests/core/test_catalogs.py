"""The files of sentences: each language whole, nothing said nowhere, what a translator needs."""

import ast
import re
from pathlib import Path

import pytest

from eldrim.core.words import all_sentences
from eldrim.core.words import catalogs as sentence_files
from eldrim.core.words.catalogs import OF_ITSELF, PAGES, read, rooms
from eldrim.core.words.language import BASE_LANGUAGE, LANGUAGES

SOURCE = Path(sentence_files.__file__).parents[2]
# Reasons of entries: `run/stops.py` puts the name of their kind before them.
OF_ENTRIES = ("cannot.", "note.", "end.")
OTHERS = sorted(set(LANGUAGES) - {BASE_LANGUAGE})


@pytest.mark.parametrize("language", OTHERS)
def test_each_room_has_the_same_sentences_in_every_language(language: str) -> None:
    """Room by room, and in the same order, so that two files can be read side by side."""
    english, other = dict(rooms(BASE_LANGUAGE)), dict(rooms(language))
    assert sorted(other) == sorted([*english, PAGES])
    for room in english:
        names = [[str(m.id) for m in files[room] if m.id] for files in (english, other)]
        assert names[0] == names[1], room


@pytest.mark.parametrize("language", OTHERS)
def test_a_translator_reads_beside_each_name_what_it_says_in_english(language: str) -> None:
    """As a comment, which is brought up to date with the sentence."""
    stale = [
        f"{room}.po: {message.id}"
        for room, found in rooms(language)
        if room not in (PAGES, OF_ITSELF)
        for message in found
        if message.id and " ".join(message.auto_comments).split() != words_of(str(message.id))
    ]
    assert not stale, "run python -m eldrim.web.texts"


def words_of(name: str) -> list[str]:
    """The words of a sentence in English, however its lines are broken."""
    return all_sentences()[name].split()


def test_no_sentence_is_said_nowhere() -> None:
    """Its name stands in the source, or a pattern there that makes it of a part and another."""
    said, patterns = set[str](), set[str]()
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Constant) and isinstance(node.value, str):
                said.add(node.value)
            elif isinstance(node, ast.JoinedStr):
                patterns.add(pattern_of(node))
    for path in (p for kind in ("*.jinja", "*.js") for p in SOURCE.rglob(kind)):
        for text in re.findall(r"""["'`]([\w.${}-]+)["'`]""", path.read_text()):
            said.add(text)
            patterns.add(re.sub(r"\\\$\\\{.*?\\\}", ".+", re.escape(text)))
            if text.endswith("."):
                patterns.add(re.escape(text) + ".+")
    made = re.compile("|".join(sorted(p for p in patterns if len(re.sub(r"\W", "", p)) >= 3)))
    found = [name for name in all_sentences() if name not in said and not made.fullmatch(name)]
    lost = [name for name in found if not name.startswith(OF_ENTRIES)]
    assert not lost, ", ".join(lost)


def pattern_of(made: ast.JoinedStr) -> str:
    """What an f-string can come to."""
    return "".join(
        re.escape(str(part.value)) if isinstance(part, ast.Constant) else ".+"
        for part in made.values
    )


def test_one_name_is_said_by_one_file(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    """Twice, it is refused with the name and the file."""
    (tmp_path / "xx").mkdir()
    for room in ("a", "b"):
        (tmp_path / "xx" / f"{room}.po").write_text('msgid "key"\nmsgstr "said"\n')
    monkeypatch.setattr(sentence_files, "FOLDER", tmp_path)
    with pytest.raises(ValueError, match=r"xx/b\.po says again: key"):
        read("xx")


def test_a_language_with_more_forms_has_its_own_choice_of_them(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    """What fits one, few and many is told at the head of its file."""
    (tmp_path / "xx").mkdir()
    (tmp_path / "xx" / "pages.po").write_text(
        'msgid ""\nmsgstr ""\n"Content-Type: text/plain; charset=utf-8\\n"\n'
        '"Plural-Forms: nplurals=3; plural=(n==1 ? 0 : n<5 ? 1 : 2);\\n"\n\n'
        'msgid "{count} run"\nmsgid_plural "{count} runs"\n'
        'msgstr[0] "a"\nmsgstr[1] "b"\nmsgstr[2] "c"\n'
    )
    monkeypatch.setattr(sentence_files, "FOLDER", tmp_path)
    found = read("xx")
    forms = found.texts["{count} run"]
    assert [forms[found.plural(count)] for count in (1, 3, 7)] == ["a", "b", "c"]
