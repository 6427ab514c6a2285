"""Sums of lengths at the plug: the gap adviser, wear, fit of a socket, the stack for a well."""

from eldrim.core.base.quantity import Quantity, convert, format_number, make
from eldrim.core.engine.parts import Head
from eldrim.core.figures.gap import GapRange, Verdict, advise, gap_limits, wear
from eldrim.core.sums.field import SHOP, SumResult
from eldrim.core.sums.given import Given
from eldrim.core.sums.torque_sums import number
from eldrim.core.tools.demand import Demand, TurnAction
from eldrim.core.tools.fit import fit
from eldrim.core.tools.stack_finder import NoStack, stack_finder_for
from eldrim.core.tools.stock import socket
from eldrim.core.words.messages import gettext, gettext_noop

VERDICTS = {
    Verdict.IN: gettext_noop("in its range"),
    Verdict.AT_LIMIT: gettext_noop("at limit"),
    Verdict.UNDER: gettext_noop("under"),
    Verdict.OVER: gettext_noop("over"),
}
CONSTRUCTIONS = ("nickel", "fine_wire", "multi_ground", "surface_gap")


def gap(given: Given) -> SumResult:
    """What to do with a plug of these readings."""
    stated = given.quantity("range")
    school = given.shop.rules.school["single_gap"]
    low, high = (convert(end, stated.unit, "mm") for end in gap_limits(stated, school))
    step = given.quantity("gauge").mid
    readings = given.many("readings")
    goal = GapRange(low, high, (low + high) / 2, step)
    advice = advise(
        given.choice("construction"),
        goal,
        readings,
        used=given.choice("state") == "used",
        maker_allows=given.choice("maker") == "allowed",
    )
    verdict = f" ({gettext(VERDICTS[advice.verdict])})" if advice.verdict else ""
    working = (*_meant(stated, low, high, step), *([advice.sum] if advice.sum else []))
    return SumResult(
        result=f"{advice.words}{verdict}",
        formula=gettext(
            "in: low + step ÷ 2 ≤ reading ≤ high − step ÷ 2; moved to the nearest point inside"
        ),
        working=working,
        source=f"{SHOP} §8",
        advice=advice,
        gap=(goal.low, goal.high, advice.to or goal.aim),
        reading=readings[-1] if readings else None,
        step=step,
        values={
            "act": advice.action.value,
            "by": advice.by,
            "to": advice.to,
            "reversals": advice.reversals,
            "moved": advice.moved,
        },
    )


def _meant(stated: Quantity, low: float, high: float, step: float) -> tuple[str, ...]:
    """The range in mm, how it came about, and where a limit begins."""
    span = make(low, "mm", high).printed_in("mm", 3)
    alone = (
        ()
        if stated.is_range
        else (
            gettext(
                "{stated} printed alone, read as {span} by house rule", stated=stated, span=span
            ),
        )
    )
    return (
        *alone,
        gettext(
            "range {span}, gauge in steps of {step} mm: within {near} mm of a limit is at limit",
            span=span,
            step=number(step, 3),
            near=number(step / 2, 3),
        ),
    )


def worn(given: Given) -> SumResult:
    """When a gap leaves its range, or that it has."""
    fitted = (given.number("meter_fitted"), given.quantity("gap_fitted").mid)
    found = (given.number("meter_found"), given.quantity("gap_found").mid)
    grown = wear(fitted, found, given.quantity("limit").high)
    if grown is None:
        raise given.refuse(
            "meter_found", gettext("the meter has not moved on"), gettext("read it again")
        )
    if grown.out:
        said = gettext("It is out of its range already: renew it")
    elif grown.leaves_at is None:
        said = gettext("The gap has not grown")
    else:
        said = gettext(
            "Leaves its range at {leaves_at} on the meter",
            leaves_at=format_number(grown.leaves_at, 0),
        )
    return SumResult(
        result=said,
        formula=gettext("rate = growth ÷ run; meter = now + (limit − found) ÷ rate"),
        working=grown.sum,
        source=f"{SHOP} §8",
        values={"rate": grown.rate, "leaves_at": grown.leaves_at, "out": grown.out},
    )


def socket_fit(given: Given) -> SumResult:
    """Whether a socket goes on a head."""
    head, across = given.quantity("head"), given.quantity("socket")
    asked = socket("3/8", across.mid, 60, across.mid + 6, 0).model_copy(update={"size": across})
    found = fit(head, asked.head, asked, plug=given.choice("what") == "plug")
    verdict = gettext("It fits") if found.fits else gettext("It does not fit")
    play = gettext(
        "{socket} − {head} = {play} mm",
        socket=number(across.mid),
        head=number(head.mid),
        play=number(found.play),
    )
    return SumResult(
        result=f"{verdict}: {found.words}",
        formula=gettext("play = socket − head, across flats"),
        working=(play,),
        source=f"{SHOP} §7",
        values={"fits": found.fits, "play": found.play},
    )


def stack(given: Given) -> SumResult:
    """What of the crib reaches a plug in a well, goes in and comes out."""
    well = _well(given)
    answer = stack_finder_for(given.shop.crib).answer(well, TurnAction.BREAK_LOOSE)
    if isinstance(answer, NoStack):
        return _no_stack(well, answer)
    best = answer[0].stack
    pieces = " + ".join(tool.name for tool in best.tools)
    lengths = " + ".join(number(piece.length) for piece in best.pieces)
    rises = number(best.rises)
    stands = gettext("{pieces}: stands {rises} mm over the rim", pieces=pieces, rises=rises)
    working = gettext(
        "{lengths} − {below} = {rises} mm over the rim",
        lengths=lengths,
        below=number(well.below),
        rises=rises,
    )
    return SumResult(
        result=". ".join([stands, *best.cautions]),
        formula=gettext(REACH),
        working=(working,),
        source=gettext("geometry; {shop} §7", shop=SHOP),
        values={"reaches": True, "pieces": pieces, "length": best.length, "rises": best.rises},
        stack=best,
    )


REACH = gettext_noop(
    "socket + extensions ≥ depth + what stands round it; no piece wider than the bore"
)


def _no_stack(well: Demand, answer: NoStack) -> SumResult:
    depth, bore = number(well.below), number(well.bore or 0)
    return SumResult(
        result=gettext("Nothing in the crib reaches: {why}", why=answer.why),
        formula=gettext(REACH),
        working=(gettext("depth {below} mm, bore {bore} mm", below=depth, bore=bore),),
        source=gettext("geometry; {shop} §7", shop=SHOP),
        values={"reaches": False},
    )


def _well(given: Given) -> Demand:
    """The well that is asked about, its plug tight."""
    room = None if given.blank("room") else given.quantity("room").mid
    return Demand(
        id="asked",
        what="plug",
        head=Head.HEX,
        size=given.quantity("hex"),
        drive="3/8",
        plug=True,
        height=given.quantity("height").mid,
        below=given.quantity("depth").mid,
        surround=10.0,
        bore=given.quantity("bore").mid,
        room=room,
        hard=True,
    )
