"""Sums of now or later: what both cost, and from which age on now costs no more."""

from eldrim.core.base.quantity import format_number
from eldrim.core.figures.worth import Life, Worth, past_interval
from eldrim.core.sums.field import SHOP, SumResult
from eldrim.core.sums.given import Given
from eldrim.core.words.messages import gettext, gettext_noop

RESULTS = {
    "now": gettext_noop("Now: {now} € now, {later} € later; it pays now {meets}"),
    "later": gettext_noop("Later: {now} € now, {later} € later; it pays now {meets}"),
}


def now_or_later(given: Given) -> SumResult:
    """Whether a thing is worth doing while the way in is open."""
    rules = given.shop.rules
    value = rules.money_per_minute if given.blank("value") else given.number("value")
    stop = rules.stop_cost if given.blank("stop") else given.number("stop")
    amount, used = given.number("life"), given.number("used")
    here, later, price = (given.number(name) for name in ("here", "later", "price"))
    if later < here:
        said = gettext("later takes less than here")
        raise given.refuse(
            "later", said, gettext("say the minutes of the whole job done on its own")
        )
    like = past_interval(amount)
    one = Worth(value, here, later, price, stop, Life(amount, "", "", like.survives))
    even = one.break_even
    verdict = "now" if one.now(used) <= one.later(used) else "later"
    return SumResult(
        result=gettext(
            RESULTS[verdict],
            now=_money(one.now(used)),
            later=_money(one.later(used)),
            meets=_meets(even),
        ),
        formula=gettext(
            "now = value × here + price + price × (1 − used ÷ life); later = value × later + "
            "price + stop × chance that it fails before"
        ),
        working=_both_sums(one, used),
        source=gettext(
            "{shop} §18; half still work at twice their interval, spread wide", shop=SHOP
        ),
        values={
            "advice": verdict,
            "now": round(one.now(used), 2),
            "later": round(one.later(used), 2),
            "break_even": None if even is None else round(even, 1),
        },
    )


def _meets(even: float | None) -> str:
    """From which age on it pays to do it now."""
    if even is None:
        return gettext("never, within three lives")
    return (
        gettext("from an age of {even}", even=_plain(even))
        if even
        else gettext("from the first day")
    )


def _both_sums(one: Worth, used: float) -> tuple[str, str]:
    """What it costs now and later, worked out."""
    value, price = _plain(one.minute), _money(one.price)
    now = gettext(
        "now: {minute} × {here} + {price} + {wasted} = {cost} €",
        minute=value,
        here=_plain(one.now_minutes),
        price=price,
        wasted=_money(one.wasted(used)),
        cost=_money(one.now(used)),
    )
    later = gettext(
        "later: {minute} × {later} + {price} + {stop} × {chance} % = {cost} €",
        minute=value,
        later=_plain(one.later_minutes),
        price=price,
        stop=_money(one.stop),
        chance=_plain(100 * one.chance(used)),
        cost=_money(one.later(used)),
    )
    return now, later


def _plain(value: float) -> str:
    return format_number(value, 1)


def _money(value: float) -> str:
    return format_number(value, 2)
