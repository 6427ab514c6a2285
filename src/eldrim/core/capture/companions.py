"""Companion work, as it is typed on the board: a paragraph each, its steps a line each.

::

    Air filter; at 728 420; when the element is dark right through
    + 1 Air filter element #MF-340-01
    clips: 4 over-center clips
    - Open the lid and take the element out | 0.8 min | undo clips
    - Lay the new one in and close the lid | 1 min | do up clips | check The seal lies flat
"""

import re
from collections.abc import Iterator
from typing import Any, get_args

from eldrim.core.base.errors import EngineError, Problem, QuantityError
from eldrim.core.base.quantity import Dimension, parse
from eldrim.core.capture.held import printed_torque, torque_figure
from eldrim.core.capture.shorthand import numbered, shorthand, understand
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.model import Engine
from eldrim.core.engine.parts import Joint
from eldrim.core.engine.upkeep import Companion, CompanionStep, Does
from eldrim.core.words.messages import gettext

MAX_TEXT = 12_000
# How one is typed, shown where nothing is yet.
EXAMPLE = """Air filter; at 728 420; when the element is dark
+ 1 Air filter element #MF-340-01
clips: 4 over-center clips
- Open the lid and take the element out | 0.8 min | undo clips
- Lay the new one in and close the lid | 1 min | do up clips | check The seal lies flat"""
FIELD = "companions"
FIX = (
    "begin each with its name, then + parts, joints as clips: 4 over-center clips, and steps as "
    "- Open the lid | 0.8 min | undo clips"
)
STEP_FIX = "write it as - Open the lid | 0.8 min | undo clips | check Seal flat | does coolant"
_AT = re.compile(r"at\s+(\d+(?:\.\d+)?)[\s,]+(\d+(?:\.\d+)?)")
_PART = re.compile(
    r"\+\s*(?:(?P<count>\d{1,2})\s+)?(?P<name>[^#]+?)(?:\s*#(?P<number>\".+\"|\S+))?"
)
_JOINT = re.compile(r"(?P<key>[a-z0-9]+(?:-[a-z0-9]+)*)\s*:\s*(?P<held>.+)")
_DOES: tuple[str, ...] = get_args(Does)


def companions_text(engine: Engine) -> str:
    """What the sheet says of its companion work, as it is typed."""
    return "\n\n".join("\n".join(_lines(engine, one)) for one in engine.companions.values())


def _lines(engine: Engine, one: Companion) -> Iterator[str]:
    head = [one.name]
    head += [f"at {one.at[0]:g} {one.at[1]:g}"] if one.at else []
    head += [f"coils off {' '.join(map(str, one.coils_off))}"] if one.coils_off else []
    head += ["stops"] if one.stops else []
    head += [f"only {' '.join(one.variants)}"] if one.variants else []
    head += [f"when {one.sign}"] if one.sign else []
    yield "; ".join(head)
    if one.note:
        yield f"note {one.note}"
    for part in one.parts:
        yield f"+ {part.count} {part.name} {numbered(part.part_number or '')}".rstrip()
    for key, joint in one.joints.items():
        yield f"{key}: {shorthand(joint, printed_torque(engine, joint))}"
    yield from (_step_line(step) for step in one.steps.values())


def _step_line(step: CompanionStep) -> str:
    said = [f"- {step.name}", step.minutes.text]
    said += [f"undo {step.undo}"] if step.undo else []
    said += [f"do up {step.do_up}"] if step.do_up else []
    said += [f"figure {step.figure}"] if step.figure else []
    said += [f"with {tool}" for tool in step.tools]
    said += [f"check {check}" for check in step.checks]
    said += [f"does {one}" for one in step.does]
    said += [f"note {step.note}"] if step.note else []
    return " | ".join(said)


def read_companions(engine: Engine, text: str) -> Engine:
    """The sheet with its companion work as such a text says it.

    One called as before keeps its key, a step said as before its own. A torque that is new becomes
    a figure to be sourced. Raises :class:`EngineError` with every line that is not understood.
    """
    if len(text) > MAX_TEXT:
        said, fix = f"hold over {MAX_TEXT} characters", "say the rest in the engine file"
        raise EngineError([Problem(FIELD, said, fix)])
    keys = {one.name: key for key, one in engine.companions.items()}
    found: dict[str, Companion] = {}
    problems: list[Problem] = []
    for paragraph in re.split(r"\n\s*\n", text.replace("\r", "")):
        lines = [line.strip() for line in paragraph.splitlines() if line.strip()]
        if not lines:
            continue
        name = lines[0].split(";")[0].strip()
        taken = {*found, *(key for said, key in keys.items() if said != name)}
        key = keys.get(name) or free_key(name, tuple(taken))
        try:
            engine, found[key] = _Paragraph(engine, engine.companions.get(key)).read(lines)
        except EngineError as error:
            problems += error.problems
    if problems:
        raise EngineError(problems)
    return engine.model_copy(update={"companions": found})


def _wrong(line: str, fix: str = FIX) -> Problem:
    return Problem(FIELD, gettext("'{line}' is not understood", line=line[:80]), fix)


class _Paragraph:
    """One piece of companion work, line by line."""

    def __init__(self, engine: Engine, had: Companion | None) -> None:
        self.engine, self.had = engine, had
        self.facts: dict[str, Any] = {}
        self.parts: list[dict[str, Any]] = []
        self.joints: dict[str, Joint] = {}
        self.steps: dict[str, Any] = {}
        self.problems: list[Problem] = []

    def read(self, lines: list[str]) -> tuple[Engine, Companion]:
        """The sheet, a new torque on it, and the companion."""
        self._head(lines[0])
        for line in lines[1:]:
            self._line(line)
        if not self.steps and not self.problems:
            self.problems.append(
                Problem(FIELD, gettext("'{lines}' has no step", lines=lines[0][:60]), STEP_FIX)
            )
        if self.problems:
            raise EngineError(self.problems)
        plain = {**self.facts, "parts": self.parts, "joints": self.joints, "steps": self.steps}
        return self.engine, Companion.model_validate(plain)

    def _head(self, line: str) -> None:
        name, *clauses = (clause.strip() for clause in line.split(";"))
        self.facts["name"] = name
        for place, clause in enumerate(clauses):
            word, _, rest = clause.partition(" ")
            if word == "when":
                self.facts["sign"] = "; ".join([rest, *clauses[place + 1 :]])
                return
            if at := _AT.fullmatch(clause):
                self.facts["at"] = (float(at[1]), float(at[2]))
            elif clause.startswith("coils off"):
                self.facts["coils_off"] = [int(n) for n in re.findall(r"\d+", clause)]
            elif clause == "stops":
                self.facts["stops"] = True
            elif word == "only":
                self.facts["variants"] = rest.split()
            else:
                self.problems.append(_wrong(clause, "use at 728 420, coils off 1 3, stops, when …"))

    def _line(self, line: str) -> None:
        part, joint = _PART.fullmatch(line), _JOINT.fullmatch(line)
        if line.startswith("- "):
            self._step(line)
        elif line.startswith("note "):
            self.facts["note"] = line.removeprefix("note ").strip()
        elif part:
            number = part["number"] and part["number"].strip('"')
            told = {"name": part["name"].strip(), "part_number": number}
            self.parts.append({**told, "count": int(part["count"] or 1)})
        elif joint:
            self._joint(joint["key"], joint["held"])
        else:
            self.problems.append(_wrong(line))

    def _joint(self, key: str, held: str) -> None:
        had = self.had.joints.get(key) if self.had else None
        if had is not None and shorthand(had, printed_torque(self.engine, had)) == held:
            self.joints[key] = had
            return
        try:
            told = understand(held)
        except EngineError as error:
            self.problems += error.problems
            return
        joint = told.joint
        if told.torque is not None:
            self.engine, figure = torque_figure(self.engine, key, told.torque)
            joint = joint.model_copy(update={"torque": figure})
        self.joints[key] = joint

    def _step(self, line: str) -> None:
        name, *fields = (word.strip() for word in line.removeprefix("- ").split("|"))
        step: dict[str, Any] = {"name": name, "checks": [], "tools": [], "does": []}
        for field in fields:
            if not _took(step, field):
                self.problems.append(_wrong(field, STEP_FIX))
                return
        if "minutes" not in step:
            self.problems.append(
                Problem(FIELD, gettext("'{value}' takes how long?", value=name[:60]), STEP_FIX)
            )
            return
        said = {s.name: key for key, s in self.had.steps.items()} if self.had else {}
        key = said.get(name)
        if key is None or key in self.steps:
            key = free_key(" ".join(name.split()[:3]), tuple({*self.steps, *said.values()}))
        self.steps[key] = step


def _took(step: dict[str, Any], field: str) -> bool:
    """Put one field of a step where it belongs; False where it says nothing of a step."""
    for word, name in (("do up ", "do_up"), ("undo ", "undo"), ("figure ", "figure")):
        if field.startswith(word):
            step[name] = field.removeprefix(word).strip()
            return True
    for word, name in (("check ", "checks"), ("with ", "tools"), ("does ", "does")):
        if field.startswith(word):
            said = field.removeprefix(word).strip()
            step[name].append(said)
            return name != "does" or said in _DOES
    if field.startswith("note "):
        step["note"] = field.removeprefix("note ").strip()
        return True
    try:
        step["minutes"] = parse(field[:40], Dimension.TIME).text
    except QuantityError:
        return False
    return True
