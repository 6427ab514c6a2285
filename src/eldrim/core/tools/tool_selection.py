"""The tools of one job: every act asked at once, the fewest tools chosen, what is lacking named."""

from dataclasses import dataclass, replace

from eldrim.core.engine.joints import FASTENERS, JOINT_RULES
from eldrim.core.engine.parts import Head, Joint
from eldrim.core.quantity import parse
from eldrim.core.tools.demand import Demand, TurnAction
from eldrim.core.tools.fewest_tools import choose_fewest_tools
from eldrim.core.tools.missing_tools import MissingTool, missing_by_name, missing_for
from eldrim.core.tools.naming import ToolRef, asked_ref
from eldrim.core.tools.shop_capability import ShopCapability
from eldrim.core.tools.stack import Stack
from eldrim.core.tools.stack_finder import StackChoice, StackQuestion
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


class ToolSelection:
    """The tools of one job: a stack for every question, the fewest in all, and what is missing."""

    def __init__(self, capability: ShopCapability, questions: tuple[StackQuestion, ...]) -> None:
        """Choose one stack for every question."""
        self.capability = capability
        unique = tuple(dict.fromkeys(questions))
        self._chosen = choose_fewest_tools(capability.finder, unique)
        self._missing = {
            q: missing
            for q in unique
            if q not in self._chosen and (missing := missing_for(capability.finder, *q))
        }
        self._missing_by_id: dict[str, MissingTool] = {}

    def stack_for(self, question: StackQuestion) -> StackChoice | None:
        """The stack chosen for a question; None where the crib has none."""
        return self._chosen.get(question)

    @property
    def missing(self) -> tuple[MissingTool, ...]:
        """Everything missing so far, each once."""
        return tuple(dict.fromkeys((*self._missing.values(), *self._missing_by_id.values())))

    def asked(self, *names: str) -> tuple[ToolRef, ...]:
        """Tools asked for by name or standard id; what the crib lacks is noted as missing."""
        return tuple(self.asked_as(asked_ref(self.capability.crib, name), name) for name in names)

    def asked_as(self, ref: ToolRef, name: str) -> ToolRef:
        """A tool asked for by ``name``, called otherwise on the step."""
        lacking = missing_by_name(self.capability.crib, name)
        if lacking:
            self._missing_by_id[ref.id] = lacking.model_copy(update={"id": ref.id})
        return ref

    def use(self, *questions: StackQuestion) -> ToolUse:
        """The tools for actions done one after the other on one head."""
        found = [choice.stack for question in questions if (choice := self.stack_for(question))]
        missing = [self._missing[q].ref for q in questions if q in self._missing]
        refs = {ref.id: ref for ref in (*(tool for s in found for tool in s.tools), *missing)}
        return ToolUse(tuple(refs.values()), tuple(refs), tuple(found))

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
        return self.capability.questions(joint) if joint.kind in FASTENERS else []

    def _at(self, joint: Joint, questions: list[StackQuestion]) -> ToolUse:
        """Tools and set-up; standing somewhere else is a change of set-up like any other."""
        plain = JOINT_RULES[joint.kind].tool
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
