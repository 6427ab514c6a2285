"""What else is worth doing, told: each with its sums and the reason in a line."""

from pydantic import Field

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import format_number
from eldrim.core.engine import Engine
from eldrim.core.engine.glossary import word
from eldrim.core.interval.advice import ALL_OTHERS, Advised, Given
from eldrim.core.interval.life import meter_words
from eldrim.core.job import Work
from eldrim.core.procedure.job.minutes import minutes_number
from eldrim.core.rules.house import HouseRules
from eldrim.core.words import inside, say

# Under this share of its life a thing is as good as new.
NEARLY_NEW = 0.1


class ToldAdvice(Frozen):
    """One thing that could be done along with a job.

    ``extra_minutes`` are what the whole job takes longer by it, ``own_minutes`` those of its own
    steps, ``later_minutes`` those of a job of its own. Costs are in the money of the house; None
    where they need an age or a life that is not known. ``break_even`` is a reading of the meter
    from which on now costs no more than later; an age, where it is not said when it was fitted.
    """

    work: str
    cylinder: int | None
    cylinders: tuple[int, ...]
    what: str
    extra_minutes: float
    own_minutes: float
    later_minutes: float
    parts_cost: float
    life: str = ""
    life_is_band: bool = False
    used: str = ""
    used_share: float | None = None
    chance: float | None = Field(None, description="That it stops before the next visit.")
    now_cost: float | None = None
    later_cost: float | None = None
    break_even: str | None = None
    advice: str = Field(description="now, later or look.")
    reason: str = Field(description="What it costs here and later, and what decides.")
    because: str = Field(description="The same as a whole line, with what it is and the advice.")
    sums: tuple[str, ...] = ()


class AdviceAnswer(Frozen):
    """All of it: other holes one by one and companions; and what is left of banks together."""

    job: str
    minutes: float
    value_of_minute: float
    stop_cost: float
    unit: str
    items: tuple[ToldAdvice, ...]
    groups: tuple[ToldAdvice, ...]
    not_weighed: int = Field(0, description="Single holes left out, as there are too many.")


def told(
    engine: Engine,
    job: tuple[str, float, int],
    found: tuple[Advised, ...],
    rules: HouseRules,
    given: Given,
) -> AdviceAnswer:
    """The advice in the language in use; ``job`` is its title, its minutes, and how many things
    were not weighed along with it.
    """
    title, minutes, left_out = job
    lines = [(one, _told(engine, one, rules, given)) for one in found]
    return AdviceAnswer(
        job=title,
        minutes=minutes,
        value_of_minute=rules.money_per_minute,
        stop_cost=rules.stop_cost if given.stop_cost is None else given.stop_cost,
        unit=given.ran.unit,
        items=tuple(line for one, line in lines if not one.bank),
        groups=tuple(line for one, line in lines if one.bank),
        not_weighed=left_out,
    )


def _told(engine: Engine, one: Advised, rules: HouseRules, given: Given) -> ToldAdvice:
    worth, life, unit = one.worth, one.worth.life, given.ran.unit
    known = one.used is not None and life is not None
    age = one.used or 0.0
    sums = _sums(one, unit) if known else ()
    lasts = meter_words(life.amount, unit) if life else ""
    reason = _reason(engine, one, rules, given)
    if life is not None:
        used = meter_words(age, unit)
        key = "advise.life" if known else "advise.life_only"
        sums = (*sums, say(key, amount=lasts, source=life.source, used=used))
    return ToldAdvice(
        work=one.work,
        cylinder=one.cylinder,
        cylinders=one.cylinders,
        what=_what(engine, one),
        extra_minutes=one.extra,
        own_minutes=one.own,
        later_minutes=one.later,
        parts_cost=round(worth.price, 2),
        life=lasts,
        life_is_band=bool(life and life.band),
        used=meter_words(age, unit) if one.used is not None else "",
        used_share=round(age / life.amount, 4) if known and life else None,
        chance=round(worth.chance(age), 4) if known else None,
        now_cost=round(worth.now(age), 2) if known else None,
        later_cost=round(worth.later(age), 2) if known else None,
        break_even=_break_even(one, unit),
        advice=one.advice,
        reason=reason,
        because=f"{_what_first(engine, one)}: {reason}",
        sums=sums,
    )


def _break_even(one: Advised, unit: str) -> str | None:
    even = one.worth.break_even
    return None if even is None else f"{round((one.fitted or 0.0) + even, 1):g} {unit}"


_MANY = {Work.PLUG: "advise.plugs", Work.COIL: "advise.coils", Work.LEAD: "advise.leads"}


def _what(engine: Engine, one: Advised) -> str:
    """What it is, in words inside a sentence: ``plugs of the rear bank``."""
    if one.work in engine.companions:
        return inside(word(engine, engine.companions[one.work].name))
    work = Work(one.work)
    if not work.at_holes:
        return say(f"job.{work.value}")
    if one.bank:
        things = say(_MANY[work])
        if one.bank == ALL_OTHERS:
            return say("advise.all_others", things=things)
        bank = inside(word(engine, engine.banks[one.bank].name))
        return say("advise.of_bank", things=things, bank=bank)
    return say(f"item.{work.value}", hole=one.cylinder)


def _what_first(engine: Engine, one: Advised) -> str:
    """The same where the line begins, with the advice: ``Plugs of the rear bank now``."""
    said = _what(engine, one)
    return f"{said[:1].upper()}{said[1:]} {say(f'advise.{one.advice}')}"


def _reason(engine: Engine, one: Advised, rules: HouseRules, given: Given) -> str:
    """The reason in a line: what it costs here and later, and what decides."""
    slots = {
        "extra": f"{minutes_number(one.extra)} min",
        "parts": f"{_money(one.worth.price)} €",
        "later": f"{minutes_number(one.later)} min",
    }
    costs = say("advise.here" if one.worth.price else "advise.here_free", **slots)
    return f"{costs}; {_decides(engine, one, rules, given)}"


def _decides(engine: Engine, one: Advised, rules: HouseRules, given: Given) -> str:
    life, unit = one.worth.life, given.ran.unit
    if rules.waste_of_life == "while_open":
        return say("advise.moves_more" if one.more_moves else "advise.while_open")
    if life is None:
        sign = (
            word(engine, engine.companions[one.work].sign) if one.work in engine.companions else ""
        )
        return say("advise.no_life_sign", sign=sign) if sign else say("advise.no_life")
    if rules.waste_of_life == "at_interval":
        return say("advise.at_interval", reading=meter_words(life.amount, unit))
    even = one.worth.break_even
    if even is None:
        return say("advise.never")
    said = _even(one, even, given)
    if one.used is None:
        return said
    if one.used >= life.amount:
        return f"{said}; {say('advise.past')}"
    new = one.advice == "now" and one.used < NEARLY_NEW * life.amount
    return f"{said}; {say('advise.new')}" if new else said


def _even(one: Advised, even: float, given: Given) -> str:
    unit = given.ran.unit
    if even == 0:
        return say("advise.always")
    if one.fitted is None or given.ran.meter is None:
        return say("advise.even_after", reading=meter_words(even, unit))
    reading = meter_words(one.fitted + even, unit)
    return say("advise.even", reading=reading, meter=meter_words(given.ran.meter, unit))


def _sums(one: Advised, unit: str) -> tuple[str, ...]:
    """Both sums, number by number."""
    worth, age = one.worth, one.used or 0.0
    value, price = format_number(worth.minute, 2), _money(worth.price)
    return (
        say(
            "advise.sum_now",
            minutes=f"{format_number(one.extra, 1)} min",
            value=value,
            price=price,
            wasted=_money(worth.wasted(age)),
            total=_money(worth.now(age)),
        ),
        say(
            "advise.sum_later",
            minutes=f"{format_number(one.later, 1)} min",
            value=value,
            price=price,
            stop=_money(worth.stop),
            chance=f"{format_number(100 * worth.chance(age), 1)} %",
            total=_money(worth.later(age)),
        ),
    )


def _money(value: float) -> str:
    return format_number(value, 0 if value >= 100 else 2 if value % 1 else 0)


def as_text(answer: AdviceAnswer) -> str:
    """The advice as a person reads it in a terminal."""
    lines = [f"{answer.job}: {format_number(answer.minutes, 1)} min", ""]
    for one in (*answer.groups, *answer.items):
        lines.append(one.because)
        lines += [f"    {line}" for line in one.sums]
    if answer.not_weighed:
        lines.append(say("advise.not_weighed", count=answer.not_weighed))
    return "\n".join(lines)
