"""The tools of one job: every act asked at once, the fewest tools chosen, what is lacking named."""

from dataclasses import dataclass, replace

from eldrim.core.engine.joints import FASTENERS, LORE
from eldrim.core.engine.parts import Head, Joint
from eldrim.core.quantity import parse
from eldrim.core.tools.choose import fewest
from eldrim.core.tools.demand import Act, Demand
from eldrim.core.tools.kit import Kit
from eldrim.core.tools.reach import Found, Question
from eldrim.core.tools.shortage import Shortage, named, shortage
from eldrim.core.tools.stack import Stack
from eldrim.core.words import say

# The clamp of a battery terminal takes a 10 mm hex nearly everywhere (shop practice).
BATTERY_CLAMP = Demand(what="", head=Head.HEX, size=parse("10 mm"), drive="1/4")


@dataclass(frozen=True)
class ToolUse:
    """The tools in hand for one step; ``setup`` names the combination, empty for bare hands."""

    tools: tuple[str, ...] = ()
    setup: str = ""
    stacks: tuple[Stack, ...] = ()


class Toolbox:
    """The stacks chosen for a job, and what its crib lacks."""

    def __init__(self, kit: Kit, questions: tuple[Question, ...]) -> None:
        """Choose one stack for every question, together the fewest tools."""
        self.kit = kit
        unique = tuple(dict.fromkeys(questions))
        self._found = fewest(kit.reach, unique)
        self._lacking = {
            q: s for q in unique if q not in self._found and (s := shortage(kit.reach, *q))
        }
        self._by_name: dict[str, Shortage] = {}

    def of(self, question: Question) -> Found | None:
        """The stack chosen for a question; None where the crib has none."""
        return self._found.get(question)

    @property
    def shortages(self) -> tuple[Shortage, ...]:
        """Everything lacking so far, each once."""
        return tuple(dict.fromkeys((*self._lacking.values(), *self._by_name.values())))

    def lacking(self, question: Question) -> Shortage | None:
        """What keeps the crib from a question."""
        return self._lacking.get(question)

    def ask_for(self, names: tuple[str, ...]) -> None:
        """Note tools asked for by name; what the crib has not is a shortage."""
        for name in names:
            lacking = named(self.kit.crib, name)
            if lacking:
                self._by_name[name] = lacking

    def use(self, *questions: Question) -> ToolUse:
        """The tools for acts done one after the other on one head."""
        found = [f.stack for q in questions if (f := self.of(q))]
        missing = tuple(s.to_get for q in questions if (s := self.lacking(q)))
        names = tuple(dict.fromkeys((*(n for s in found for n in s.names), *missing)))
        return ToolUse(names, " + ".join(names), tuple(found))

    def release(self, joint: Joint) -> ToolUse:
        """What lets a joint go."""
        return self._at(joint, [q for q in self._acts(joint) if q[1] in (Act.LOOSE, Act.RUN)])

    def tighten(self, joint: Joint) -> tuple[ToolUse, Found | None]:
        """What makes a joint up again, and the setting where a torque is stated."""
        last = [q for q in self._acts(joint) if q[1] in (Act.SNUG, Act.TORQUE)]
        return self._at(joint, last), self.of(last[0]) if last else None

    def _acts(self, joint: Joint) -> list[Question]:
        return self.kit.acts(joint) if joint.kind in FASTENERS else []

    def _at(self, joint: Joint, questions: list[Question]) -> ToolUse:
        """Tools and set-up; standing somewhere else is a change of set-up like any other."""
        plain = LORE[joint.kind].tool if joint.kind not in FASTENERS else None
        if plain:
            self.ask_for((plain,))
        use = ToolUse((plain,), plain) if plain else self.use(*questions)
        extras = ("mirror and light",) if joint.mirror else ()
        self.ask_for(extras)
        place = (f"standing {joint.stand}",) if joint.stand else ()
        setup = " + ".join(filter(None, (use.setup, *extras, *place)))
        return ToolUse((*use.tools, *extras), setup, use.stacks)


def clamp_questions() -> tuple[Question, ...]:
    """What isolating the battery asks of the crib."""
    clamp = replace(BATTERY_CLAMP, what=say("clamp"))
    return ((clamp, Act.LOOSE, None), (clamp, Act.SNUG, None))
