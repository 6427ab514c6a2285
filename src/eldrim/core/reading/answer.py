"""A verdict as it is told: every id with its sentence, in the language in use."""

from pydantic import Field

from eldrim.core.base.frozen import Frozen
from eldrim.core.reading.causes import MEDIUM, STRONG
from eldrim.core.reading.observed import PlugSet
from eldrim.core.reading.over_time import Change
from eldrim.core.reading.signs import in_order
from eldrim.core.reading.verdict import HEALTHY, Against, SetVerdict, Verdict
from eldrim.core.words import listed, say


class ToldFor(Frozen):
    """A sign that speaks for a cause."""

    hole: str
    sign: str
    words: str
    weight: float = Field(description="Log-odds: strong 3, medium 2, weak 1.")


class ToldAgainst(Frozen):
    """What speaks against a cause: ``sign`` is empty where a hole shows nothing of it."""

    hole: str
    sign: str
    words: str


class ToldVerdict(Frozen):
    """One cause, told."""

    cause: str
    title: str
    scope: str
    holes: tuple[str, ...]
    place: str
    confidence: str
    margin: float
    told_for: tuple[ToldFor, ...] = Field(serialization_alias="for")
    against: tuple[ToldAgainst, ...]
    instead: str
    tell_apart: str
    check: str
    now: str
    act: str
    recheck: str


class ToldChange(Frozen):
    """How one hole stands to the last set."""

    hole: str
    change: str
    words: str
    before: tuple[str, ...]
    now: tuple[str, ...]


class ReadingAnswer(Frozen):
    """The answer to a set of plugs.

    ``signs`` are what was seen, as it can be given as the last set the next time.
    """

    status: str
    status_words: str
    verdicts: tuple[ToldVerdict, ...]
    unexplained: tuple[ToldAgainst, ...]
    aside: dict[str, dict[str, str]]
    over_time: tuple[ToldChange, ...]
    signs: dict[str, tuple[str, ...]]
    not_read: tuple[str, ...]
    proven: bool


def told(found: SetVerdict, plugs: PlugSet) -> ReadingAnswer:
    """The answer in the language in use."""
    return ReadingAnswer(
        status=found.status,
        status_words=status_words(found),
        verdicts=tuple(_told(verdict, found) for verdict in found.verdicts),
        unexplained=tuple(_against(one) for one in found.unexplained),
        aside={
            hole: {sign: say(f"reading.aside.{why}") for sign, why in signs.items()}
            for hole, signs in found.aside.items()
        },
        over_time=tuple(_change(change) for change in found.over_time),
        signs={hole: in_order(seen) for hole, seen in plugs.seen.items()},
        not_read=found.not_read,
        proven=found.proven,
    )


def status_words(found: SetVerdict) -> str:
    """What a set can tell at all."""
    far = {"km": f"{found.recheck.km:g}", "hours": f"{found.recheck.hours:g}"}
    return say(f"reading.status.{found.status}", **far)


def title(verdict: Verdict) -> str:
    """The cause and where it is."""
    at = say(f"reading.at.{verdict.scope}", holes=listed(verdict.holes), place=verdict.place)
    return f"{say(f'reading.cause.{verdict.cause}')} ({at})"


def _told(verdict: Verdict, found: SetVerdict) -> ToldVerdict:
    far = {"km": f"{found.recheck.km:g}", "hours": f"{found.recheck.hours:g}"}
    return ToldVerdict(
        cause=verdict.cause,
        title=title(verdict),
        scope=verdict.scope,
        holes=verdict.holes,
        place=verdict.place,
        confidence=verdict.confidence,
        margin=verdict.margin,
        told_for=tuple(
            ToldFor(hole=s.hole, sign=s.sign, words=say(f"reading.sign.{s.sign}"), weight=s.weight)
            for s in verdict.speaks_for
        ),
        against=tuple(_against(one) for one in verdict.against),
        instead=say(f"reading.cause.{verdict.instead}") if verdict.instead else "",
        tell_apart=say(f"reading.check.{verdict.tell_apart}") if verdict.tell_apart else "",
        check=verdict.tell_apart,
        now=say(f"reading.now.{verdict.now}"),
        act=verdict.now,
        recheck=say("reading.recheck", **far) if verdict.recheck else "",
    )


def _against(one: Against) -> ToldAgainst:
    if not one.sign:
        words = say("reading.against.missing", holes=one.hole)
    else:
        signs = say(f"reading.sign.{one.sign}")
        words = say("reading.against.odd", signs=signs, hole=one.hole)
    return ToldAgainst(hole=one.hole, sign=one.sign, words=words)


def _change(change: Change) -> ToldChange:
    words = say(f"reading.change.{change.change}")
    return ToldChange(**{**change.model_dump(), "words": words})


def strength(weight: float) -> str:
    """How strongly a sign speaks, in a word."""
    name = "strong" if weight >= STRONG else "medium" if weight >= MEDIUM else "weak"
    return say(f"reading.{name}")


def as_text(answer: ReadingAnswer) -> str:
    """The answer as lines for a terminal."""
    lines = [answer.status_words]
    for verdict in answer.verdicts:
        lines += ["", *_verdict_lines(verdict)]
    for one in answer.unexplained:
        signs = say(f"reading.sign.{one.sign}")
        lines += ["", say("reading.unexplained", signs=signs, hole=one.hole)]
    for hole, aside in answer.aside.items():
        lines += [f"  {hole}: {say(f'reading.sign.{s}')}: {why}" for s, why in aside.items()]
    lines += [f"  {change.hole}: {change.words}" for change in answer.over_time]
    if answer.not_read:
        lines.append(say("reading.not_read", holes=listed(answer.not_read)))
    lines += ["", say("reading.proven" if answer.proven else "reading.not_proven")]
    return "\n".join(lines)


def _verdict_lines(verdict: ToldVerdict) -> list[str]:
    sure = say(f"reading.sure.{verdict.confidence}")
    rival = f"; {say('reading.instead', cause=verdict.instead)}" if verdict.instead else ""
    lines = [f"{verdict.title}: {sure}{rival}"]
    if verdict.told_for:
        speaks = [
            f"{say('reading.sign.at', sign=s.words, hole=s.hole)} ({strength(s.weight)})"
            for s in verdict.told_for
        ]
        lines.append(f"  {say('reading.for', signs=listed(speaks))}")
    lines += [f"  {one.words}" for one in verdict.against]
    acts = [verdict.now, *([verdict.tell_apart] if verdict.cause != HEALTHY else [])]
    return [
        *lines,
        *(f"  {act}" for act in acts),
        *([f"  {verdict.recheck}"] * bool(verdict.recheck)),
    ]
