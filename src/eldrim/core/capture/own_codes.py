"""The maker's own codes in one line: ``P1314 = misfire 4: fuel cut; E-17: oil level``."""

import re
from typing import Any, get_args

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.engine.model import Engine, OwnCode
from eldrim.core.words.messages import gettext

ABOUT: tuple[str, ...] = get_args(OwnCode.model_fields["about"].annotation)
MAX_TEXT = 1_000
_FORM = re.compile(
    r"(?P<code>[\w-]{2,12})\s*"
    r"(?:=\s*(?P<about>[a-z]+)(?:\s+(?P<of>[\w-]{1,40}))?\s*)?:\s*(?P<means>[^:]{1,120})",
    re.IGNORECASE,
)
FIX = f"write it as P1314 = misfire 4: fuel cut at 4, with one of {', '.join(ABOUT)}"


def own_codes_line(engine: Engine) -> str:
    """What the sheet says of the maker's own codes, as it is typed."""
    return "; ".join(f"{code}{_about(own)}: {own.means}" for code, own in engine.own_codes.items())


def _about(own: OwnCode) -> str:
    of = own.bank if own.cylinder is None else str(own.cylinder)
    if own.about == "own" and not of:
        return ""
    return f" = {own.about} {of}" if of else f" = {own.about}"


def read_own_codes(line: str) -> dict[str, Any]:
    """The ``own_codes`` of a sheet from such a line; a number is a cylinder, a word a bank.

    Raises :class:`EngineError` with every clause that is not understood.
    """
    if len(line) > MAX_TEXT:
        said, fix = f"holds {len(line)} characters", f"at most {MAX_TEXT}"
        raise EngineError([Problem("own_codes", said, fix)])
    found: dict[str, Any] = {}
    problems = []
    for clause in filter(None, (said.strip() for said in line.split(";"))):
        fits = _FORM.fullmatch(clause)
        about = (fits["about"] or "own").lower() if fits else ""
        if fits is None or about not in ABOUT:
            problems.append(
                Problem(
                    "own_codes", gettext("'{clause}' is not understood", clause=clause[:80]), FIX
                )
            )
            continue
        code, of = fits["code"].upper(), fits["of"]
        if code in found:
            problems.append(
                Problem(
                    "own_codes", gettext("{code} stands twice", code=code), gettext("say each once")
                )
            )
        found[code] = {"means": " ".join(fits["means"].split()), "about": about}
        if of:
            found[code] |= {"cylinder": int(of)} if of.isdecimal() else {"bank": of.lower()}
    if problems:
        raise EngineError(problems)
    return found
