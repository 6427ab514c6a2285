"""The tools of one job: every act asked at once, the fewest tools chosen, what is lacking named."""

from dataclasses import dataclass, replace

from eldrim.core.base.quantity import parse
from eldrim.core.engine.joints import JOINT_RULES
from eldrim.core.engine.parts import Head, Joint
from eldrim.core.tools.crib import Tool
from eldrim.core.tools.demand import Demand, TurnAction
from eldrim.core.tools.fewest_tools import choose_fewest_tools
from eldrim.core.tools.missing_tools import MissingTool, missing_by_name, missing_for
from eldrim.core.tools.naming import ToolRef, asked_ref, to_be_got
from eldrim.core.tools.purchase import cheapest_purchase
from eldrim.core.tools.shop_capability import ShopCapability
from eldrim.core.tools.stack import Stack
from eldrim.core.tools.stack_finder import (
    NoStack,
    StackChoice,
    StackFinder,
    StackQuestion,
    stack_finder_for,
)
from eldrim.core.words import say

MIRROR = "mirror-and-light"
# The clamp of a battery terminal takes a 10 mm hex nearly everywhere (shop practice).
BATTERY_CLAMP = Demand(id="battery-clamp", what="", head=Head.HEX, size=parse("10 mm"), drive="1/4")


@dataclass(frozen=True)
class ToolUse:
    """The tools in hand for one step; ``setup`` is the combination by ids, empty for bare hands."""

    tools: tuple[ToolRef, ...] = ()
    setup: tuple[str, ...] = ()
    stacks: tuple[Stack, ...] = ()

    def with_more(self, *refs: ToolRef) -> tuple[ToolRef, ...]:
        """Its tools and more, each once."""
        return tuple({ref.id: ref for ref in (*self.tools, *refs)}.values())


class ToGet:
    """What has to be got for the questions of one job that its crib does not answer.

    Each tool once, however many acts it serves: what was got for one is there for the next.
    """

    def __init__(self, finder: StackFinder, questions: tuple[StackQuestion, ...]) -> None:
        """Buy the cheapest for each question in turn that is still open."""
        self.finder = finder
        self.hopeless: dict[StackQuestion, MissingTool] = {}
        self._whys: dict[str, list[str]] = {}
        self.bought: dict[str, Tool] = {}
        for question in questions:
            answer = finder.answer(*question)
            if isinstance(answer, NoStack) and not self.finder.possible(*question):
                self._buy(question, answer.why)

    def _buy(self, question: StackQuestion, why: str) -> None:
        bought = cheapest_purchase(self.finder.crib, *question)
        if not bought:
            lacking = missing_for(self.finder, *question)
            assert lacking is not None, "what cannot be done is missing"
            self.hopeless[question] = lacking
            return
        for tool in bought:
            self.bought[tool.id] = tool
            self._whys.setdefault(tool.id, []).append(f"{question[0].what}: {why}")
        self.finder = stack_finder_for(self.finder.crib.plus(*bought))

    @property
    def missing(self) -> tuple[MissingTool, ...]:
        """The tools to get, each once with what they are for, and what nothing sold would do."""
        hopeless = {lacking.id: lacking for lacking in self.hopeless.values()}
        return (*map(self._lacking, self.bought.values()), *hopeless.values())

    def _lacking(self, tool: Tool) -> MissingTool:
        why = "; ".join(dict.fromkeys(self._whys[tool.id]))
        return MissingTool(
            id=tool.id, what=tool.shown, why=why, buy=(tool.shown,), price=tool.price
        )


class ToolSelection:
    """The tools of one job: a stack for every question, the fewest in all, and what is missing."""

    def __init__(self, capability: ShopCapability, questions: tuple[StackQuestion, ...]) -> None:
        """Choose one stack for every question, with what has to be got where the crib has none."""
        self.capability = capability
        unique = tuple(dict.fromkeys(questions))
        self.asked_of_crib = unique
        self.to_get = ToGet(capability.finder, unique)
        self._chosen = choose_fewest_tools(capability.finder, unique, self.to_get.finder)
        self._missing_by_id: dict[str, MissingTool] = {}
        self._uses: dict[tuple[StackQuestion, ...], ToolUse] = {}

    def stack_for(self, question: StackQuestion) -> StackChoice | None:
        """The stack chosen for a question; None where nothing that is sold would do it."""
        return self._chosen.get(question)

    @property
    def missing(self) -> tuple[MissingTool, ...]:
        """Everything missing so far, each once."""
        return tuple(dict.fromkeys((*self.to_get.missing, *self._missing_by_id.values())))

    def asked(self, *names: str) -> tuple[ToolRef, ...]:
        """Tools asked for by name or standard id; what the crib lacks is noted as missing."""
        return tuple(self.asked_as(asked_ref(self.capability.crib, name), name) for name in names)

    def asked_as(self, ref: ToolRef, name: str) -> ToolRef:
        """A tool asked for by ``name``, called otherwise on the step."""
        lacking = missing_by_name(self.capability.crib, name)
        if not lacking:
            return ref
        self._missing_by_id[ref.id] = lacking.model_copy(update={"id": ref.id})
        return to_be_got(ref)

    def use(self, *questions: StackQuestion) -> ToolUse:
        """The tools for actions done one after the other on one head, each named once."""
        if questions not in self._uses:
            self._uses[questions] = self._use(questions)
        return self._uses[questions]

    def _use(self, questions: tuple[StackQuestion, ...]) -> ToolUse:
        found = [choice.stack for question in questions if (choice := self.stack_for(question))]
        lacking = [self.to_get.hopeless[q].ref for q in questions if q in self.to_get.hopeless]
        pieces = [self._marked(tool) for stack in found for tool in stack.tools]
        refs = {ref.id: ref for ref in (*pieces, *lacking)}
        return ToolUse(tuple(refs.values()), tuple(refs), tuple(found))

    def _marked(self, tool: ToolRef) -> ToolRef:
        """A tool as a step names it: what has to be got says so."""
        return to_be_got(tool) if tool.id in self.to_get.bought else tool

    def release(self, joint: Joint) -> ToolUse:
        """What lets a joint go."""
        first = (TurnAction.BREAK_LOOSE, TurnAction.RUN_OUT)
        return self._at(
            joint, [question for question in self._questions(joint) if question[1] in first]
        )

    def tighten(self, joint: Joint) -> tuple[ToolUse, StackChoice | None]:
        """What makes a joint up again, and the setting where a torque is stated."""
        last = (TurnAction.TIGHTEN, TurnAction.TORQUE)
        asked = [question for question in self._questions(joint) if question[1] in last]
        return self._at(joint, asked), self.stack_for(asked[0]) if asked else None

    def _questions(self, joint: Joint) -> list[StackQuestion]:
        return self.capability.questions(joint) if joint.turned else []

    def _at(self, joint: Joint, questions: list[StackQuestion]) -> ToolUse:
        """Tools and set-up; standing somewhere else is a change of set-up like any other."""
        plain = None if joint.turned else JOINT_RULES[joint.kind].tool
        use = self._by_hand(plain) if plain else self.use(*questions)
        extras = self.asked(MIRROR) if joint.mirror else ()
        place = (f"stand/{joint.stand}",) if joint.stand else ()
        setup = (*use.setup, *(ref.id for ref in extras), *place)
        return ToolUse((*use.tools, *extras), setup, use.stacks)

    def _by_hand(self, tool: str) -> ToolUse:
        refs = self.asked(tool)
        return ToolUse(refs, tuple(ref.id for ref in refs))


def clamp_questions() -> tuple[StackQuestion, ...]:
    """What isolating the battery asks of the crib."""
    clamp = replace(BATTERY_CLAMP, what=say("clamp"))
    return ((clamp, TurnAction.BREAK_LOOSE, None), (clamp, TurnAction.TIGHTEN, None))
