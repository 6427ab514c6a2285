"""What a job sheet says of each act: what is common once, what differs by hole behind it."""

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import IntEnum

from eldrim.core.base.quantity import format_number
from eldrim.core.operations import Phase
from eldrim.core.procedure.editions.fold import Act, NumberedAct, acts_of, fold
from eldrim.core.procedure.job.minutes import minutes_number
from eldrim.core.procedure.model import Caution, Check, Plan, Reading, Step, StepFigure
from eldrim.core.procedure.whole_job.tool_words import tool_words
from eldrim.core.words import say, sentences


class Closeness(IntEnum):
    """How much is left away so that a sheet has few sides. Never a caution, a note or a proof.

    CLOSE leaves away how parts are handled; SIGNS says what is proven, and what holds at several
    acts, by signs that are explained once; TIGHT leaves away how the work at the holes is done;
    RUN_ON sets several acts in a paragraph besides; BARE leaves away the codes of acts.
    """

    OPEN = 0
    CLOSE = 1
    SIGNS = 2
    TIGHT = 3
    RUN_ON = 4
    BARE = 5

    @property
    def by_signs(self) -> bool:
        """Whether proofs and repeated notes are said by signs."""
        return self >= Closeness.SIGNS


@dataclass(frozen=True)
class Blank:
    """Something to write down, with what it is and between which limits it has to lie."""

    label: str
    window: str
    unit: str = ""


@dataclass(frozen=True)
class InlineFigure:
    """A figure where it is used: what to set, the range it comes from, and which source says so."""

    setting: str
    range: str
    source: int


@dataclass(frozen=True)
class ActLine:
    """An act on the sheet. ``letters`` are of the cautions that bind here; ``code`` names its code.

    ``differs`` is what holds at some holes or joints alone; ``ticks`` are numbers of proofs where
    ``numbered``, else their words.
    """

    letters: str
    code: str
    number: str
    text: str
    how: str
    tools: str
    notes: tuple[str, ...]
    differs: tuple[str, ...]
    blanks: tuple[Blank, ...]
    ticks: tuple[str, ...]
    figures: tuple[InlineFigure, ...]
    minutes: str
    hold: str


class Legend:
    """Letters of cautions, numbers of proofs and of sources, each once, in the order they come."""

    def __init__(self) -> None:
        """Nothing has come yet."""
        self.cautions: dict[str, str] = {}
        self.proofs: dict[str, int] = {}
        self.sources: dict[str, int] = {}
        self.notes: dict[str, str] = {}

    def letters(self, cautions: Iterable[Caution]) -> str:
        """The letters of cautions, each text having one."""
        for caution in cautions:
            self.cautions.setdefault(caution.text, _letter(len(self.cautions)))
        return " ".join(self.cautions[caution.text] for caution in cautions)

    def note(self, said: str) -> str:
        """The sign of a sentence that holds at several acts."""
        return self.notes.setdefault(said, _letter(len(self.notes)).lower())

    def proof(self, check: Check) -> int:
        """The number of a proof."""
        return self.proofs.setdefault(check.text, len(self.proofs) + 1)

    def source(self, said: str) -> int:
        """The number of a source."""
        return self.sources.setdefault(said, len(self.sources) + 1)


def _letter(index: int) -> str:
    return chr(ord("A") + index % 26) * (index // 26 + 1)


def blank(reading: Reading) -> Blank:
    """A reading as something to write on paper."""
    return Blank(reading.label, window(reading), reading.unit)


def window(reading: Reading) -> str:
    """The limits of a reading in words; empty for one without."""
    low, high = (None if v is None else format_number(v, 3) for v in (reading.low, reading.high))
    if low is not None and high is not None:
        return say("sum.span", low=low, high=high, unit="").strip()
    return f"≥ {low}" if low is not None else f"≤ {high}" if high is not None else ""


def asked(readings: Iterable[Reading]) -> list[Reading]:
    """The readings that somebody has to write down, or that have limits to be held to."""
    return [r for r in readings if r.required or r.low is not None or r.high is not None]


class ActLines:
    """Says the acts of one plan, as closely as is asked."""

    def __init__(self, plan: Plan, closeness: Closeness) -> None:
        """Letters and numbers begin anew with each sheet."""
        self.plan, self.closeness, self.legend = plan, closeness, Legend()
        self.moves = {move.part: move for move in plan.moves}
        self.whole_parts = _parts_in_one_act(plan)
        self.repeated = _repeated(plan)
        self.asked_again = _asked_again(plan) if closeness.by_signs else set()

    def line(self, one: NumberedAct, code: str = "") -> ActLine:
        """An act that is no work at a hole: everything of it stands in its line."""
        act = one.act
        steps = act.steps
        parts = len(steps) > 1
        return ActLine(
            letters=self.legend.letters(_cautions(steps)),
            code=code,
            number=self._balloon(act),
            text=act.text,
            how=self._how(act),
            tools="" if parts or self.closeness >= Closeness.TIGHT else _with(steps[0]),
            notes=_notes(steps),
            differs=self._joints(act) if parts else (),
            blanks=tuple(blank(r) for step in steps for r in asked(step.readings)),
            ticks=() if parts else self.ticks(steps[0].checks),
            figures=() if parts else tuple(map(self.figure, steps[0].figures)),
            minutes=minutes_number(act.minutes),
            hold=say("doc.hold") if any(step.hold for step in steps) else "",
        )

    def hole_line(self, one: NumberedAct, code: str) -> ActLine:
        """An act at holes: what is written down and proven stands in the grid."""
        act = one.act
        tight = self.closeness >= Closeness.TIGHT
        how = act.how if self.closeness.by_signs else act.detail
        return ActLine(
            letters=self.legend.letters(act.common("cautions")),
            code=code,
            number="",
            text=act.text,
            how="" if tight else how,
            tools=_with(act.first) if act.same_tools and not tight else "",
            notes=(*filter(None, [act.shared.get("note")]), *_photographed(act.steps)),
            differs=(*self._here(act), *filter(None, (self._at_holes(act, s) for s in act.groups))),
            blanks=(),
            ticks=(),
            figures=(),
            minutes=minutes_number(act.minutes),
            hold=say("doc.hold") if act.shared.get("hold") else "",
        )

    def figure(self, figure: StepFigure) -> InlineFigure:
        """A figure where it is used."""
        setting = figure.setting.text if figure.setting else figure.printed
        over = figure.printed if figure.setting else figure.converted
        wrench = figure.setting.wrench if figure.setting else ""
        then = say("doc.then", angle=figure.plus) if figure.plus else ""
        range_ = "; ".join(filter(None, (over, wrench, then, *doubts(figure))))
        return InlineFigure(setting, range_, self.legend.source(source_words(self.plan, figure)))

    def ticks(self, checks: Iterable[Check]) -> tuple[str, ...]:
        """Proofs to tick: in words, or by their number where one is asked for again."""
        return tuple(
            str(self.legend.proof(check)) if check.text in self.asked_again else check.text
            for check in checks
        )

    def _balloon(self, act: Act) -> str:
        parts = {step.part for step in act.steps if step.key.rule.way}
        numbers = [self.moves[part].number for part in parts if part in self.moves]
        return str(numbers[0]) if numbers else ""

    def _how(self, act: Act) -> str:
        step = act.first
        if len(act.steps) > 1:
            return ""
        if step.key.rule.lists or step.own or self.closeness is Closeness.OPEN:
            return step.detail
        return ""

    def _joints(self, act: Act) -> tuple[str, ...]:
        """The other steps of a part: by what holds it on its way off, else step by step."""
        move = self.moves.get(act.first.part or "")
        off = move is not None and act.first.part in self.whole_parts and _plain(act)
        if move and off and self._balloon(act):
            ticks = self.ticks(_checks(act.steps))
            return (_lower(move.what), *(f"☐ {tick}" for tick in ticks))
        return tuple(
            self._joint(step, step.text != act.text)
            for step in act.steps
            if step.text != act.text or _speaks(step)
        )

    def _joint(self, step: Step, named: bool) -> str:
        text = f"{step.brief or step.text}." if named else ""
        how = step.detail if self.closeness is Closeness.OPEN else ""
        figures = [self._figure_words(figure) for figure in step.figures]
        ticks = [f"☐ {tick}" for tick in self.ticks(step.checks)]
        return " ".join(filter(None, (text, how, *figures, *ticks)))

    def _figure_words(self, figure: StepFigure) -> str:
        made = self.figure(figure)
        return f"{made.setting} ({made.range}) [{made.source}]"

    def _here(self, act: Act) -> list[str]:
        """What is said of some holes alone, each sentence once with its holes; by signs also what
        is said of all of them, since how it is done is left away.
        """
        if not act.said_once("detail"):
            return []
        found: dict[str, list[Step]] = {}
        for step in act.steps:
            for said in step.here if self.closeness.by_signs else act.more(step, "here"):
                found.setdefault(said, []).append(step)
        return [
            f"{'' if len(steps) == len(act.steps) else f'{_holes(steps)}: '}{self._sign(said)}"
            for said, steps in found.items()
        ]

    def _sign(self, said: str) -> str:
        """A sentence, or its sign where it holds at several acts."""
        repeated = self.closeness.by_signs and said in self.repeated
        return f"({self.legend.note(said)})" if repeated else said

    def _at_holes(self, act: Act, steps: Sequence[Step]) -> str:
        """What is said at some of the holes of an act alone."""
        step = steps[0]
        more = self.legend.letters(act.more(step, "cautions"))
        said = (
            "" if act.said_once("text") else f"{step.text}.",
            "" if act.said_once("detail") else step.detail,
            "" if act.shared.get("note") else step.note,
            "" if act.same_tools else _sentence(_with(step)),
            f"({more})" if more else "",
            f"{say('doc.hold')}." if step.hold and not act.shared.get("hold") else "",
        )
        whole = sentences(*said)
        return f"{_holes(steps)}: {whole}" if whole else ""


def source_words(plan: Plan, figure: StepFigure) -> str:
    """The source of a figure, and its variant where that is not the one at the head."""
    same = figure.variant == plan.variant_name
    return figure.source if same else f"{figure.source}; {figure.variant}"


def doubts(figure: StepFigure) -> list[str]:
    """What a figure has against it, in words."""
    found = [say("doc.fallback")] if figure.fallback else []
    if figure.unsettled:
        found.append(say("doc.disagree", rivals="; ".join(figure.rivals)))
    return found


def _holes(steps: Iterable[Step]) -> str:
    return ", ".join(step.hole or "" for step in steps)


def _cautions(steps: Iterable[Step]) -> list[Caution]:
    """The cautions of steps, each once."""
    return list({one.text: one for step in steps for one in step.cautions}.values())


def _checks(steps: Iterable[Step]) -> list[Check]:
    """The proofs of steps, each once."""
    return list({one.text: one for step in steps for one in step.checks}.values())


def _notes(steps: Sequence[Step]) -> tuple[str, ...]:
    return (*(step.note for step in steps if step.note), *_photographed(steps))


def _photographed(steps: Sequence[Step]) -> list[str]:
    """That there is something to look at, which no sheet shows."""
    return [say("sheet.photo")] if any(step.photos for step in steps) else []


def _with(step: Step) -> str:
    return say("doc.with", tools=tool_words(step)) if step.tools else ""


def _sentence(text: str) -> str:
    return f"{text}." if text else ""


def _lower(text: str) -> str:
    return f"{text[:1].lower()}{text[1:]}"


def _speaks(step: Step) -> bool:
    """Whether a step has more than its text."""
    return bool(step.checks or step.figures or step.own)


def _repeated(plan: Plan) -> set[str]:
    """The sentences about single holes that stand at more than one act."""
    found: dict[str, set[str]] = {}
    for step in plan.steps:
        for said in step.here:
            found.setdefault(said, set()).add(step.key.at_every_hole)
    return {said for said, acts in found.items() if len(acts) > 1}


def _asked_again(plan: Plan) -> set[str]:
    """The proofs that are asked for more than once away from the holes."""
    texts = Counter(c.text for step in plan.steps if not step.hole for c in step.checks)
    return {text for text, times in texts.items() if times > 1}


def _plain(act: Act) -> bool:
    """Whether a trainer changed nothing in the words of an act."""
    return not any(step.edited or step.own for step in act.steps)


def _parts_in_one_act(plan: Plan) -> set[str]:
    """The parts whose steps on the way off follow on one another."""
    acts = [a.first.part for a in acts_of(fold(plan.steps)) if a.first.phase is Phase.UNCOVER]
    return {part for part in acts if part and acts.count(part) == 1}
