"""Signs as people type them: ``4=blister; 5=black, wet, oily; rest=tan; 2=?``."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from difflib import get_close_matches

from eldrim.core.base.errors import Problem, ProblemsError, QuantityError
from eldrim.core.base.quantity import Dimension, in_unit, parse
from eldrim.core.engine.model import Engine
from eldrim.core.reading.signs import PICKED, SIGNS
from eldrim.core.reading_choices import CONDITIONS_BEFORE
from eldrim.core.words.messages import either, gettext

MAX_TEXT = 4000
MAX_WORD = 80
# What a gap can be at all (docs/craft.md §21).
GAPS_MM = (0.1, 3.0)
NOT_READ = ("?", "not read", "unread", "unknown")
REST = ("rest", "others", "other", "all")
NOTHING = ("ok", "good", "fine", "healthy", "normal", "clean", "nothing", "none", "in order")
# Other words for a sign; every sign and every pick of the bay is a word of its own too.
WORDS: dict[str, str] = {
    "light tan": "tan", "grey": "tan", "gray": "tan", "brown": "tan", "light brown": "tan",
    "fawn": "tan", "chalky": "white", "chalk": "white", "chalk white": "white", "pale": "white",
    "sooty": "soot", "sooted": "soot", "dry soot": "soot", "carbon": "soot", "dark": "black",
    "wet with oil": "wet oily", "oil": "oily", "oil fouled": "oily",
    "wet with fuel": "wet fuel-smell", "fuel": "wet fuel-smell", "petrol": "wet fuel-smell",
    "smells of fuel": "fuel-smell",
    "smells of petrol": "fuel-smell", "smell": "fuel-smell", "fuel smell": "fuel-smell",
    "varnish": "varnish-smell", "smells of varnish": "varnish-smell", "stale": "varnish-smell",
    "damp": "wet", "rust": "red", "rusty": "red", "rust red": "red", "glaze": "yellow",
    "yellow glaze": "yellow", "yellow brown": "yellow", "glazed": "yellow",
    "white crust": "crust", "green crust": "crust", "coolant": "crust", "crusty": "crust",
    "steam clean": "steam-clean", "steamed": "steam-clean", "washed": "steam-clean",
    "blisters": "blister", "blistered": "blister", "white blisters": "white blister",
    "speck": "specks", "speckled": "specks", "peppered": "specks",
    "round": "rounded", "edges rounded": "rounded", "worn": "rounded", "worn out": "rounded",
    "strap worn": "strap-worn", "centre worn": "centre-worn", "center worn": "centre-worn",
    "melted edge": "melted", "melt": "melted", "wide": "gap-wide",
    "wide gap": "gap-wide", "gap wide": "gap-wide", "closed": "gap-closed",
    "gap closed": "gap-closed", "bent": "tip-bent", "tip bent": "tip-bent", "beaten": "tip-bent",
    "crack": "cracked", "cracked insulator": "cracked", "insulator cracked": "cracked",
    "tracking": "track", "tracked": "track", "black line": "track", "track down": "track",
    "flash over": "track", "flashover": "track", "line": "track", "ring stain": "stain",
    "brown ring": "stain", "corona": "stain", "streaked": "stain-streaked",
    "streaked stain": "stain-streaked", "ring uneven": "ring-uneven", "uneven ring": "ring-uneven",
    "flattened": "ring-uneven", "two rings": "two-rings", "second ring": "two-rings",
    "no ring": "ring-missing", "ring missing": "ring-missing", "missing ring": "ring-missing",
    "soot past the seat": "blow-by", "blow by": "blow-by", "leaked": "blow-by",
    "found loose": "loose", "thread carbon": "thread-carbon",
    "carbon on the thread": "thread-carbon",
    "rusty thread": "thread-rust", "thread rust": "thread-rust", "hard to turn": "stiff",
    "tight": "stiff", "rusty shell": "shell-rust", "shell rust": "shell-rust",
    "oil in well": "well-oil", "oil in the well": "well-oil", "well oil": "well-oil",
    "oily well": "well-oil", "water in well": "well-water", "water in the well": "well-water",
    "well water": "well-water", "water": "well-water", "wet well": "well-water",
    "boot oily": "boot-oily", "oily boot": "boot-oily", "boot torn": "boot-torn",
    "torn boot": "boot-torn", "split boot": "boot-torn", "boot split": "boot-torn",
    "boot cracked": "boot-torn", "boot burnt": "boot-burnt", "burnt boot": "boot-burnt",
    "stretched spring": "spring-stretched", "spring stretched": "spring-stretched",
    "coil cracked": "coil-cracked", "cracked coil": "coil-cracked", "coil bulged": "coil-bulged",
    "bulged": "coil-bulged", "coil burnt": "coil-burnt", "burnt coil": "coil-burnt",
    "rusty coil": "rusty-foot", "rusty foot": "rusty-foot", "bent pins": "pins-bent",
    "pins bent": "pins-bent", "pushed back pin": "pins-bent", "pin pushed back": "pins-bent",
    "green pins": "pins-green", "corroded pins": "pins-green", "pins green": "pins-green",
}  # fmt: skip


@dataclass(frozen=True)
class TypedSet:
    """What was typed: signs and gaps (mm) by hole; a hole said not to be read is left out."""

    seen: dict[str, frozenset[str]]
    gaps: dict[str, float] = field(default_factory=dict)


def read_signs(engine: Engine, text: str) -> TypedSet:
    """Read signs by hole. A hole not named showed nothing; ``?`` says that it was not read.

    Raises :class:`ProblemsError` with everything that is not understood, and the nearest words.
    """
    if len(text) > MAX_TEXT:
        raise ProblemsError(
            [
                Problem(
                    "signs",
                    gettext("is too long"),
                    gettext("at most {max_text} characters", max_text=MAX_TEXT),
                )
            ]
        )
    reader = _Reader(engine)
    for clause in filter(str.strip, re.split(r"[;\n]", text)):
        reader.take(clause.strip())
    if reader.problems:
        raise ProblemsError(reader.problems)
    return TypedSet(reader.result(), reader.gaps)


class _Reader:
    def __init__(self, engine: Engine) -> None:
        self._holes = tuple(engine.holes)
        self._engine = engine
        self._seen: dict[str, set[str]] = {}
        self._unread: set[str] = set()
        self._rest: set[str] | None = set()
        self.gaps: dict[str, float] = {}
        self.problems: list[Problem] = []

    def take(self, clause: str) -> None:
        """One hole and what was seen there."""
        where, equals, what = clause.partition("=")
        where = where.strip().lower()
        if not equals:
            self._wrong(clause[:MAX_WORD], "names no hole", "write hole=signs, as 5=black,wet")
            return
        words = [word for word in re.split(r"[,+]", what.lower()) if word.strip()]
        if where in REST:
            self._take_rest(words)
            return
        holes = self._named(where)
        if not words and holes:
            self._wrong(where, "has no signs", "write what was seen, ok, or ? where not read")
        for hole in holes:
            if hole in self._seen or hole in self._unread:
                self._wrong(hole, "is said twice", "say each hole once")
                continue
            self._at(hole, words)

    def result(self) -> dict[str, frozenset[str]]:
        """The signs of every hole that was read."""
        found = {}
        for hole in self._holes:
            if hole in self._unread or (hole not in self._seen and self._rest is None):
                continue
            found[hole] = frozenset(self._seen.get(hole, self._rest or set()))
        return found

    def _take_rest(self, words: list[str]) -> None:
        if [word.strip() for word in words] and words[0].strip() in NOT_READ:
            self._rest = None
            return
        self._rest = {sign for word in words for sign in self._signs("rest", word)}

    def _named(self, where: str) -> tuple[str, ...]:
        if where in self._holes:
            return (where,)
        if where.isdecimal() and len(where) < 4 and int(where) in self._engine.cylinders:
            return self._engine.holes_of(int(where))
        self._wrong(
            where[:MAX_WORD] or "hole",
            "is no hole of this engine",
            f"use one of: {', '.join(self._holes)}",
        )
        return ()

    def _at(self, hole: str, words: list[str]) -> None:
        if len(words) == 1 and words[0].strip() in NOT_READ:
            self._unread.add(hole)
            return
        found = self._seen.setdefault(hole, set())
        for word in words:
            gap = _gap(word)
            if gap is not None:
                self._take_gap(hole, gap)
            else:
                found.update(self._signs(hole, word))

    def _take_gap(self, hole: str, gap: float) -> None:
        least, most = GAPS_MM
        if hole in self.gaps:
            self._wrong(hole, "has two gaps", "say one")
        elif not least <= gap <= most:
            self._wrong(hole, f"has a gap of {gap:g} mm", f"gaps are {least:g} to {most:g} mm")
        else:
            self.gaps[hole] = gap

    def _signs(self, hole: str, word: str) -> Iterator[str]:
        plain = " ".join(word.split())
        known = known_signs(plain)
        if known is None:
            near = get_close_matches(plain[:MAX_WORD], VOCABULARY, n=3, cutoff=0.5)
            fix = (
                gettext("did you mean {near}?", near=either(near))
                if near
                else gettext("eldrim read --help lists them")
            )
            self._wrong(hole, gettext("'{word}' is no sign we know", word=plain[:MAX_WORD]), fix)
        yield from known or ()

    def _wrong(self, path: str, message: str, fix: str) -> None:
        self.problems.append(Problem(f"signs.{path}", message, fix))


def known_signs(word: str) -> tuple[str, ...] | None:
    """The signs a word stands for; None where it is none."""
    if word in NOTHING:
        return ()
    hyphened = word.replace(" ", "-")
    for said in (word, CONDITIONS_BEFORE.get(word, word), hyphened):
        if said in SIGNS:
            return (said,)
        if said in PICKED:
            return PICKED[said]
    spaced = word.replace("-", " ")
    if spaced in WORDS:
        return tuple(WORDS[spaced].split())
    return None


VOCABULARY = (*SIGNS, *PICKED, *WORDS, *NOTHING)


def _gap(word: str) -> float | None:
    """A gap in mm, where the word is a length: ``gap 1.3 mm``."""
    said = re.sub(r"^\s*gap\s+", "", word).strip()[:MAX_WORD]
    if not said[:1].isdecimal():
        return None
    try:
        length = parse(said, Dimension.LENGTH)
    except QuantityError:
        return None
    return length.mid


def read_since(text: str) -> tuple[float | None, float | None]:
    """Kilometres and hours run since the plugs were fitted, from ``320 km`` or ``4 h, 120 km``.

    Raises :class:`ProblemsError` for what is neither.
    """
    km: float | None = None
    hours: float | None = None
    for word in filter(str.strip, re.split(r"[;,](?!\d{3})|\band\b", text[:MAX_TEXT])):
        said = word.strip()[:MAX_WORD]
        try:
            value = parse(said)
        except QuantityError as error:
            wrong = Problem("since", str(error), gettext("write it as 320 km or 5 h"))
            raise ProblemsError([wrong]) from error
        if value.dimension is Dimension.DISTANCE:
            km = value.mid
        elif value.dimension is Dimension.TIME:
            hours = in_unit(value.mid, "min", "h")
        else:
            raise ProblemsError(
                [
                    Problem(
                        "since",
                        gettext("'{said}' is no distance and no time", said=said),
                        gettext("write 320 km or 5 h"),
                    )
                ]
            )
    return km, hours
