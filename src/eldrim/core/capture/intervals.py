"""Intervals and prices, each in one line, as they are typed on the board.

Intervals: ``coil: inspect 1500 h; air-filter: 1000 h, 24 months, severe 500 h, fleet p. 48``.
Prices: ``#MP-12L-IR6 12 from Skerry stores, 12 months; #MF-340-01 14``.
"""

import re
from collections.abc import Iterator
from typing import Any

from eldrim.core.base.errors import EngineError, Problem, QuantityError
from eldrim.core.base.quantity import Dimension, format_number, parse, read_number
from eldrim.core.capture.plain_facts import clauses
from eldrim.core.engine.model import TO_BE_STATED, TO_STATE, UNSTATED, Engine
from eldrim.core.engine.upkeep import Interval, Limits, Price
from eldrim.core.words.messages import gettext

MAX_TEXT = 4_000
INTERVAL_FIX = (
    "write it as air-filter: 1000 h, 24 months, severe 500 h, fleet p. 48; or coil: inspect 1500 h"
)
PRICE_FIX = "write it as #MF-340-01 14 from Skerry stores, 12 months"
_INTERVAL = re.compile(r"(?P<of>[a-z0-9-]+)\s*:\s*(?P<said>.+)")
_SOURCE = re.compile(r"(?P<source>[a-z0-9-]+)\s+p\.?\s*(?P<page>\S.*)", re.IGNORECASE)
_PRICE = re.compile(r"#(?P<number>\S+)\s+(?P<each>[\d.,]+)\s*€?(?:\s+from\s+(?P<rest>.+))?")
_MONTHS = re.compile(r"(\d{1,3})\s*months?")


def intervals_line(engine: Engine) -> str:
    """What the sheet says of its intervals, as it is typed."""
    return "; ".join(map(_interval_words, engine.intervals))


def _interval_words(one: Interval) -> str:
    said = list(_limit_words(one))
    said[0] = f"inspect {said[0]}" if one.act == "inspect" else said[0]
    said += [f"severe {words}" for words in _limit_words(one.severe)]
    said += [f"only {' '.join(one.variants)}"] if one.variants else []
    said.append(f"{one.source} p. {one.page}")
    return f"{one.of}: {', '.join(said)}"


def _limit_words(limits: Limits) -> Iterator[str]:
    yield from (value.text for value in (limits.distance, limits.hours) if value)
    if limits.months:
        yield f"{limits.months} months"
    if limits.season:
        yield "season"


def read_intervals(line: str) -> list[dict[str, Any]]:
    """The ``intervals`` of a sheet from such a line; without a source they are to be sourced.

    Raises :class:`EngineError` with every clause that is not understood.
    """
    found, problems = [], []
    for clause in clauses("intervals", line, MAX_TEXT):
        fits = _INTERVAL.fullmatch(clause)
        told = _interval(fits["of"], fits["said"]) if fits else None
        if told is None:
            problems.append(
                Problem(
                    "intervals",
                    gettext("'{clause}' is not understood", clause=clause[:80]),
                    INTERVAL_FIX,
                )
            )
        else:
            found.append(told)
    if problems:
        raise EngineError(problems)
    return found


def _interval(of: str, said: str) -> dict[str, Any] | None:
    told: dict[str, Any] = {"of": of, "source": TO_STATE, "page": "none", "severe": {}}
    if said.startswith("inspect "):
        told["act"], said = "inspect", said.removeprefix("inspect ")
    for word in (one.strip() for one in said.split(",")):
        where = told
        if word.startswith("severe "):
            where, word = told["severe"], word.removeprefix("severe ").strip()
        source = _SOURCE.fullmatch(word)
        if word.startswith("only "):
            told["variants"] = word.split()[1:]
        elif source:
            told |= {"source": source["source"].lower(), "page": source["page"]}
        elif not _limit(where, word):
            return None
    plain = {k: v for k, v in told.items() if v != {}}
    return plain if {"distance", "hours", "months", "season"} & set(plain) else None


def _limit(where: dict[str, Any], word: str) -> bool:
    """Put one limit where it belongs; False where it is none."""
    months = _MONTHS.fullmatch(word)
    if months or word == "season":
        where |= {"months": int(months[1])} if months else {"season": True}
        return True
    try:
        value = parse(word[:40])
    except QuantityError:
        return False
    field = {Dimension.DISTANCE: "distance", Dimension.TIME: "hours"}.get(value.dimension)
    if field is None:
        return False
    where[field] = value.text
    return True


def source_needed(engine: Engine, intervals: list[dict[str, Any]]) -> dict[str, Any]:
    """The ``sources`` of the sheet, with the one that is to be stated where an interval lacks its
    own.
    """
    plain = {key: one.model_dump(mode="json") for key, one in engine.sources.items()}
    if any(one["source"] == TO_STATE for one in intervals):
        plain.setdefault(TO_STATE, {"document": UNSTATED, "edition": TO_BE_STATED})
    return plain


def prices_line(engine: Engine) -> str:
    """What the sheet says of prices, as it is typed."""
    return "; ".join(_price_words(number, price) for number, price in engine.prices.items())


def _price_words(number: str, price: Price) -> str:
    rest = ", ".join(filter(None, (price.supplier, price.guarantee)))
    return f"#{number} {format_number(price.each, 2)}{f' from {rest}' if rest else ''}"


def read_prices(line: str) -> dict[str, Any]:
    """The ``prices`` of a sheet from such a line.

    Raises :class:`EngineError` with every clause that is not understood.
    """
    found: dict[str, Any] = {}
    problems = []
    for clause in clauses("prices", line, MAX_TEXT):
        fits = _PRICE.fullmatch(clause)
        if fits is None or fits["number"] in found:
            said = gettext("stands twice") if fits else gettext("is not understood")
            problems.append(
                Problem(
                    "prices", gettext("'{clause}' {said}", clause=clause[:80], said=said), PRICE_FIX
                )
            )
            continue
        supplier, _, guarantee = (fits["rest"] or "").partition(",")
        try:
            each = read_number(fits["each"])
        except QuantityError as error:
            problems.append(Problem("prices", str(error), PRICE_FIX))
            continue
        found[fits["number"]] = {
            "each": each,
            "supplier": supplier.strip(),
            "guarantee": guarantee.strip(),
        }
    if problems:
        raise EngineError(problems)
    return found
