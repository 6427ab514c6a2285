"""What differs between two plans of the same job: steps, values, tools, minutes."""

import re

from eldrim.core.frozen import Frozen
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.procedure.photos import Photo
from eldrim.core.quantity import format_number

FIELDS = (
    ("text", "wording"),
    ("detail", "how"),
    ("tools", "tools"),
    ("minutes", "minutes"),
    ("checks", "checks"),
    ("readings", "readings"),
    ("cautions", "cautions"),
    ("note", "note"),
    ("hold", "hold point"),
    ("photos", "photos"),
)


# What they list is compared on its own: tools and parts.
BENCH = ("ready/tools", "ready/parts", "prove/tools")


class Change(Frozen):
    """One thing about one step, before and after."""

    step: str
    text: str
    what: str
    before: str
    after: str
    hole: str = ""


class Difference(Frozen):
    """Everything that differs; empty when the plans say the same."""

    added: tuple[Step, ...]
    removed: tuple[Step, ...]
    changed: tuple[Change, ...]
    moved: tuple[str, ...]
    tools_added: tuple[str, ...]
    tools_removed: tuple[str, ...]
    minutes: tuple[float, float]
    tool_changes: tuple[int, int]
    moves: tuple[tuple[str, ...], tuple[str, ...]]

    @property
    def empty(self) -> bool:
        """Whether nothing differs."""
        return not (self.added or self.removed or self.changed or self.moved)


def difference(before: Plan, after: Plan) -> Difference:
    """Compare two plans step by step, by step key."""
    old, new = ({s.key: s for s in p.steps} for p in (before, after))
    compared = [k for k in old if k in new and k not in BENCH]
    changed = _together([c for k in compared for c in _changes(old[k], new[k])])
    return Difference(
        added=tuple(s for k, s in new.items() if k not in old),
        removed=tuple(s for k, s in old.items() if k not in new),
        changed=tuple(changed),
        moved=_moved(list(old), list(new), new),
        tools_added=tuple(t for t in after.tools if t not in before.tools),
        tools_removed=tuple(t for t in before.tools if t not in after.tools),
        minutes=(before.minutes, after.minutes),
        tool_changes=(before.tool_changes, after.tool_changes),
        moves=tuple(tuple(f"{m.part}/{m.way}" for m in p.moves) for p in (before, after)),
    )


def _changes(old: Step, new: Step) -> list[Change]:
    # The sheet's revision stands on the first step: a new one alone changes nothing to be done.
    fields = [f for f in FIELDS if (new.key, f[0]) != ("ready/unit", "detail")]
    found = [
        Change(
            step=new.key,
            text=new.text,
            what=what,
            before=_said(getattr(old, field)),
            after=_said(getattr(new, field)),
            hole=new.hole or "",
        )
        for field, what in fields
        if getattr(old, field) != getattr(new, field)
    ]
    return found + _figure_changes(old, new)


def _together(changes: list[Change]) -> list[Change]:
    """Make one of changes that are alike but for the hole they are at."""
    alike: dict[tuple[str, ...], list[Change]] = {}
    for c in changes:
        key = (c.what, *(_unnumbered(t, c.hole) for t in (c.text, c.before, c.after)))
        alike.setdefault(key, []).append(c)
    return [_one(group) for group in alike.values()]


def _one(group: list[Change]) -> Change:
    first, holes = group[0], ", ".join(c.hole for c in group)
    if len(group) == 1:
        return first
    told = {
        f: _renumbered(getattr(first, f), first.hole, holes) for f in ("text", "before", "after")
    }
    return first.model_copy(update={**told, "hole": holes})


def _unnumbered(text: str, hole: str) -> str:
    return _renumbered(text, hole, "#")


def _renumbered(text: str, hole: str, name: str) -> str:
    """Put ``name`` for the hole where it follows the word for what is in it."""
    return (
        re.sub(rf"\b(plug|coil|lead|well|hole|for) {hole}\b", rf"\1 {name}", text) if hole else text
    )


def _figure_changes(old: Step, new: Step) -> list[Change]:
    before, after = ("; ".join(_figures(s)) for s in (old, new))
    if before == after:
        return []
    return [
        Change(
            step=new.key,
            text=new.text,
            what="figure",
            before=before,
            after=after,
            hole=new.hole or "",
        )
    ]


def _figures(step: Step) -> list[str]:
    return [f"{f.printed}, set {f.setting.text}" if f.setting else f.printed for f in step.figures]


def _said(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple) and value and isinstance(value[0], Photo):
        return "; ".join(f"{p.caption or 'photo'}, {len(p.marks)} marked" for p in value)
    if isinstance(value, tuple):
        return "; ".join(
            _limits(v) if isinstance(v, Reading) else getattr(v, "text", str(v)) for v in value
        )
    return f"{value:g} min" if isinstance(value, float) else str(value)


def _limits(reading: Reading) -> str:
    ends = [format_number(v, 3) for v in (reading.low, reading.high) if v is not None]
    return f"{reading.label} {' to '.join(ends)} {reading.unit}".strip()


def _moved(old: list[str], new: list[str], steps: dict[str, Step]) -> tuple[str, ...]:
    """Texts of the steps that stand elsewhere: those outside the longest order kept by both."""
    shared = [k for k in old if k in set(new)]
    place = {k: i for i, k in enumerate(k for k in new if k in set(old))}
    kept = _longest_rising([place[k] for k in shared])
    return tuple(steps[k].text for k in shared if place[k] not in kept)


def _longest_rising(numbers: list[int]) -> set[int]:
    best: list[tuple[int, int]] = []
    for i, n in enumerate(numbers):
        longer = [(best[j][0], j) for j in range(i) if numbers[j] < n]
        length, link = max(longer, default=(0, -1))
        best.append((length + 1, link))
    index = max(range(len(best)), key=lambda i: best[i][0], default=-1)
    kept = set()
    while index >= 0:
        kept.add(numbers[index])
        index = best[index][1]
    return kept
