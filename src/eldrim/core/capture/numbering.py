"""Numbers other than a shape's: each cylinder keeps its place and is called as the maker does."""

import json
import re
from typing import Any

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.engine.model import Engine
from eldrim.core.words.messages import gettext

_HOLE = re.compile(r"\bhole/(\d+)")


def renumbered(engine: Engine, numbers: list[int]) -> Engine:
    """Call the cylinders, as they stand on the sheet in order, by other numbers.

    Pairs, coil letters and whatever names a hole follow; the firing order is the maker's and
    stays. Raises :class:`EngineError` unless each number of the engine is said once.
    """
    now = list(engine.cylinders)
    if sorted(numbers) != sorted(now):
        fix = gettext(
            "say each of {now} once, as they stand on the plan", now=" ".join(map(str, sorted(now)))
        )
        said = " ".join(map(str, numbers)) or "nothing"
        raise EngineError(
            [Problem("numbers", gettext("'{said}' does not number this engine", said=said), fix)]
        )
    if numbers == now:
        return engine
    called = dict(zip(now, numbers, strict=True))

    def hole(found: re.Match[str]) -> str:
        return f"hole/{called.get(int(found[1]), found[1])}"

    plain = engine.model_dump(mode="json", exclude_defaults=True)
    plain = json.loads(_HOLE.sub(hole, json.dumps(plain, ensure_ascii=False)))
    cylinders = {called[int(n)]: cylinder for n, cylinder in plain["cylinders"].items()}
    plain["cylinders"] = dict(sorted(cylinders.items()))
    plain["ignition"] = _ignition(plain["ignition"], called)
    for shared in plain.get("shared", {}).values():
        shared["cylinders"] = [called[n] for n in shared["cylinders"]]
    if runs := plain.get("lead_runs"):
        plain["lead_runs"] = {_called(hole, called): run for hole, run in runs.items()}
    for code in plain.get("own_codes", {}).values():
        if "cylinder" in code:
            code["cylinder"] = called[code["cylinder"]]
    return Engine.model_validate({**plain, "format": engine.format})


def _called(hole: str, called: dict[int, int]) -> str:
    """A hole by its new number, with its letter; what is no hole stays."""
    digits = hole.rstrip("ab")
    return f"{called[int(digits)]}{hole[len(digits) :]}" if digits.isdecimal() else hole


def _ignition(plain: dict[str, Any], called: dict[int, int]) -> dict[str, Any]:
    pairs = plain.get("waste_spark_pairs", [])
    letters, pack = plain.get("coil_letters", {}), plain.get("pack")
    towers = {n: _called(hole, called) for n, hole in pack["towers"].items()} if pack else {}
    return {
        **plain,
        **({"waste_spark_pairs": [[called[n] for n in pair] for pair in pairs]} if pairs else {}),
        **({"pack": {**pack, "towers": towers}} if pack else {}),
        **({"coil_letters": {key: called[n] for key, n in letters.items()}} if letters else {}),
    }
