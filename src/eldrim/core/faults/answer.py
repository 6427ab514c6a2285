"""A diagnosis as it is told: every id with its sentence, in the language in use."""

from string import ascii_uppercase

from pydantic import Field

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import format_number
from eldrim.core.engine.model import Engine
from eldrim.core.faults.acts import REPAIR, TESTS
from eldrim.core.faults.beliefs import PRIOR_CASES, Belief
from eldrim.core.faults.codes import Code
from eldrim.core.faults.diagnosis import Baselines, Diagnosis
from eldrim.core.faults.strategy import Branch, Node
from eldrim.core.words import listed, say

CAUTIONS = {row.key: tuple(cause.value for cause in row.causes) for row in TESTS}


class ToldCode(Frozen):
    """A code with what it is about; of a consequence why it may follow, and what proves it."""

    code: str
    about: str
    words: str
    why: str = ""
    proof: str = ""


class ToldCause(Frozen):
    """A cause: how likely, from which band, what speaks for and against it.

    ``cases`` are the shop's own proven ones, which weigh in the band; causes that were cured
    together share a case.
    """

    key: str
    cylinder: int
    title: str
    probability: float
    band: float
    cases: float
    told_for: tuple[str, ...] = Field(serialization_alias="for")
    against: tuple[str, ...]


class Opened(Frozen):
    """A thing an act has to open: a part of the engine, or what is off and on at a cylinder."""

    key: str
    name: str


class OpenedTogether(Frozen):
    """What opens together, by the letter it has on the plan: once, for all that lies behind it."""

    letter: str
    things: tuple[Opened, ...]
    minutes: float


class ToldBranch(Frozen):
    """What an act can end in."""

    outcome: str
    words: str
    chance: float
    node: "ToldNode | None" = None


class ToldNode(Frozen):
    """One act of the tree. ``minutes_own`` of a repair hold its parts' price and its proof;
    ``letters`` are those of what it opens.
    """

    act: str
    title: str
    kind: str
    cylinder: int
    minutes_own: float
    minutes_access: float
    opens: tuple[Opened, ...]
    letters: tuple[str, ...]
    cautions: tuple[str, ...]
    chance: float
    outcomes: tuple[ToldBranch, ...]


class DiagnosisAnswer(Frozen):
    """The answer to a complaint."""

    kind: str
    kind_words: str
    cylinders: tuple[int, ...]
    leading: ToldCode | None
    pointing: tuple[ToldCode, ...]
    consequences: tuple[ToldCode, ...]
    other_codes: tuple[ToldCode, ...]
    causes: tuple[ToldCause, ...]
    prior_cases: int
    tree: ToldNode
    opened: tuple[OpenedTogether, ...]
    expected_minutes: float
    bound_minutes: float
    baselines: Baselines
    proven_optimal: bool
    partners: dict[str, int]


def told(engine: Engine, found: Diagnosis) -> DiagnosisAnswer:
    """The answer in the language in use."""
    first = found.leading
    named = {first.text} if first else set()
    follow = tuple(
        ToldCode(
            code=one.code.text,
            about=one.code.kind,
            words=_words(one.code),
            why=say(f"fault.{one.why}"),
            proof=say("fault.proof", code=first.text if first else ""),
        )
        for one in found.consequences
    )
    pointing = tuple(map(_code, found.pointing))
    named |= {one.code for one in (*follow, *pointing)}
    teller = _Teller(engine, found)
    return DiagnosisAnswer(
        kind=found.where.kind,
        kind_words=say(f"fault.kind.{found.where.kind}"),
        cylinders=found.where.cylinders,
        leading=_code(first) if first else None,
        pointing=pointing,
        consequences=follow,
        other_codes=tuple(_code(one) for one in found.codes if one.text not in named),
        causes=tuple(_cause(one) for one in found.causes),
        prior_cases=PRIOR_CASES,
        tree=teller.node(found.strategy.tree),
        opened=teller.opened(),
        expected_minutes=round(found.strategy.expected, 2),
        bound_minutes=round(found.strategy.bound, 2),
        baselines=found.baselines,
        proven_optimal=found.strategy.proven,
        partners=found.partners,
    )


def _code(code: Code) -> ToldCode:
    return ToldCode(code=code.text, about=code.kind, words=_words(code))


def _words(code: Code) -> str:
    """What a code is about: in the words of the sheet where it is the maker's own."""
    return code.means or say(f"fault.class.{code.kind}")


def _cause(one: Belief) -> ToldCause:
    return ToldCause(
        key=one.key,
        cylinder=one.cylinder,
        title=say(f"fault.cause.{one.key}", cylinder=one.cylinder or ""),
        probability=round(one.probability, 4),
        band=round(one.band, 4),
        cases=round(one.cases, 2),
        told_for=tuple(map(evidence_words, one.speaks_for)),
        against=tuple(map(evidence_words, one.against)),
    )


def evidence_words(name: str) -> str:
    """What a piece of evidence is called."""
    kind, _, sign = name.partition(".")
    return say(f"reading.sign.{sign}" if kind == "sign" else f"fault.evidence.{name}")


class _Teller:
    """Tells the tree of one diagnosis."""

    def __init__(self, engine: Engine, found: Diagnosis) -> None:
        self._engine, self._found = engine, found
        self._at = found.where.cylinders[0] if found.where.cylinders else 0
        self._letters: dict[str, str] = {}

    def node(self, node: Node) -> ToldNode:
        partner = self._found.partners.get(node.act, "")
        title = say(f"fault.act.{node.act}", cylinder=self._at or "", partner=partner)
        proven = node.kind == "repair" and not REPAIR[node.act].hands_over
        title = say("fault.then_prove", act=title) if proven else title
        return ToldNode(
            act=node.act,
            title=" ".join(title.split()),
            kind=node.kind,
            cylinder=self._at,
            minutes_own=node.minutes_own,
            minutes_access=node.minutes_access,
            opens=tuple(one for group in node.opens for one in self._things(group)),
            letters=tuple(self._letter(group) for group in node.opens),
            cautions=CAUTIONS.get(node.act, ()),
            chance=node.chance,
            outcomes=tuple(self._branch(branch) for branch in node.outcomes),
        )

    def opened(self) -> tuple[OpenedTogether, ...]:
        """What the nodes told so far open, in the order they come to it."""
        return tuple(
            OpenedTogether(
                letter=letter, things=self._things(group), minutes=self._found.search.opening[group]
            )
            for group, letter in self._letters.items()
        )

    def _letter(self, group: str) -> str:
        turn, place = divmod(len(self._letters), len(ascii_uppercase))
        return self._letters.setdefault(group, ascii_uppercase[place] + str(turn or ""))

    def _things(self, group: str) -> tuple[Opened, ...]:
        return tuple(Opened(key=key, name=self._name(key)) for key in group.split("+"))

    def _branch(self, branch: Branch) -> ToldBranch:
        return ToldBranch(
            outcome=branch.outcome,
            words=say(f"fault.outcome.{branch.outcome}"),
            chance=branch.chance,
            node=self.node(branch.node) if branch.node else None,
        )

    def _name(self, key: str) -> str:
        kind, slash, cylinder = key.partition("/")
        if not slash:
            return self._engine.parts[key].name
        if kind == "plug":
            return say("fault.open.plug", cylinder=cylinder)
        what = "coil" if self._engine.ignition.kind == "coil_on_plug" else "lead"
        return say("fault.open.carrier", what=say(f"noun.{what}"), cylinder=cylinder)


def as_text(answer: DiagnosisAnswer) -> str:
    """The answer as lines for a terminal: nested as the tree is."""
    lines = [answer.kind_words]
    if answer.leading:
        lead = answer.leading
        lines.append(f"  {say('fault.leads', code=lead.code, words=lead.words)}")
    lines += [f"  {say('fault.points', code=one.code, words=one.words)}" for one in answer.pointing]
    lines += [
        f"  {say('fault.consequence', code=one.code, why=one.why)}" for one in answer.consequences
    ]
    lines += ["", *(_cause_line(one) for one in answer.causes), ""]
    lines += _node_lines(answer.tree, 0)
    base = answer.baselines
    lines += [
        "",
        say("fault.expected", minutes=f"{answer.expected_minutes:.0f}"),
        say("fault.usual", minutes=f"{base.plugs_then_coils:.0f}"),
        say("fault.likeliest", minutes=f"{base.likeliest_per_minute:.0f}"),
        say("fault.fixed", minutes=f"{base.best_fixed_order:.0f}"),
        certainty(answer),
    ]
    return "\n".join(lines)


def certainty(answer: DiagnosisAnswer) -> str:
    """Whether anything is less, or by how much it could be."""
    if answer.proven_optimal:
        return say("fault.proven")
    gap = answer.expected_minutes - answer.bound_minutes
    return say("fault.gap", minutes=f"{gap:.1f}")


def _cause_line(one: ToldCause) -> str:
    why = f" ({listed(one.told_for)})" if one.told_for else ""
    if one.cases:
        why += f"; {say('fault.cases', count=format_number(one.cases, 1))}"
    return f"{one.probability * 100:5.1f} %  {one.title}{why}"


def _node_lines(node: ToldNode, depth: int) -> list[str]:
    pad = "  " * depth
    lines = [f"{pad}{node.title}", f"{pad}  {minutes_words(node)}"]
    for branch in node.outcomes:
        lines.append(f"{pad}  {branch.words} {branch.chance * 100:.0f} %")
        if branch.node:
            lines += _node_lines(branch.node, depth + 2)
    return lines


def minutes_words(node: ToldNode) -> str:
    """What an act takes: its own minutes, and what it opens for how many more."""
    own = f"{node.minutes_own:.0f}"
    if not node.opens:
        return say("fault.minutes_own", own=own)
    names = ", ".join(one.name for one in node.opens)
    return say("fault.minutes", own=own, access=f"{node.minutes_access:.0f}", opens=names)
