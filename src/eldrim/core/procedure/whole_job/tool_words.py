"""The tools of a step in words: each once, and what is changed between two actions said so."""

from eldrim.core.procedure.model import Step
from eldrim.core.words import say


def tool_words(step: Step) -> str:
    """``socket + extension; loosen with breaker bar ⅜ in, then run out with ratchet``.

    Where one stack does it all, its pieces and the rest in a row.
    """
    stacks = [stack for stack in step.stacks if stack.tools]
    if len({stack.ids for stack in stacks}) < 2:
        return " + ".join(tool.name for tool in step.tools)
    names = {tool.id: tool.name for tool in step.tools}
    shared = [i for i in stacks[0].ids if all(i in stack.ids for stack in stacks)]
    acts = [
        say(f"with.{stack.action}", tools=_named(names, [i for i in stack.ids if i not in shared]))
        for stack in stacks
    ]
    in_stacks = {i for stack in stacks for i in stack.ids}
    more = [tool.id for tool in step.tools if tool.id not in in_stacks]
    said = say("with.then").join(acts)
    first = _named(names, [*shared, *more])
    return say("with.shared", tools=first, acts=said) if first else said


def _named(names: dict[str, str], ids: list[str]) -> str:
    return " + ".join(names[i] for i in ids if i in names)
