"""Sums of now or later: what both cost, and from which age on now costs no more."""

from eldrim.core.figures.worth import Life, Worth, past_interval
from eldrim.core.messages import gettext
from eldrim.core.quantity import format_number
from eldrim.core.sums.field import SHOP, SumResult
from eldrim.core.sums.given import Given


def now_or_later(given: Given) -> SumResult:
    """Whether a thing is worth doing while the way in is open."""
    rules = given.shop.rules
    value = rules.money_per_minute if given.blank("value") else given.number("value")
    stop = rules.stop_cost if given.blank("stop") else given.number("stop")
    amount, used = given.number("life"), given.number("used")
    here, later, price = (given.number(name) for name in ("here", "later", "price"))
    if later < here:
        said = "later takes less than here"
        raise given.refuse(
            "later", said, gettext("say the minutes of the whole job done on its own")
        )
    like = past_interval(amount)
    one = Worth(value, here, later, price, stop, Life(amount, "", "", like.survives))
    even = one.break_even
    verdict = "now" if one.now(used) <= one.later(used) else "later"
    meets = {None: "never, within three lives", 0.0: "from the first day"}.get(
        even, f"from an age of {_plain(even or 0.0)}"
    )
    return SumResult(
        result=f"{verdict.capitalize()}: {_money(one.now(used))} € now, "
        f"{_money(one.later(used))} € later; it pays now {meets}",
        formula="now = value × here + price + price × (1 − used ÷ life); "
        "later = value × later + price + stop × chance that it fails before",
        working=(
            f"now: {_plain(value)} × {_plain(here)} + {_money(price)} + {_money(one.wasted(used))} "
            f"= {_money(one.now(used))} €",
            f"later: {_plain(value)} × {_plain(later)} + {_money(price)} + {_money(stop)} × "
            f"{_plain(100 * one.chance(used))} % = {_money(one.later(used))} €",
        ),
        source=f"{SHOP} §18; half still work at twice their interval, spread wide",
        values={
            "advice": verdict,
            "now": round(one.now(used), 2),
            "later": round(one.later(used), 2),
            "break_even": None if even is None else round(even, 1),
        },
    )


def _plain(value: float) -> str:
    return format_number(value, 1)


def _money(value: float) -> str:
    return format_number(value, 2)
