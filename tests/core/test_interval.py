"""Now or later: the sums against a slow plain twin, break-even, lives, what is worth doing."""

import math
from collections.abc import Callable

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eldrim.core.base.errors import ProblemsError
from eldrim.core.engine import Engine
from eldrim.core.figures.prices import price_of
from eldrim.core.figures.worth import Fails, Life, Worth
from eldrim.core.interval.advice import Advised, Given, Ran, advise, not_weighed
from eldrim.core.interval.answer import AdviceAnswer, told
from eldrim.core.interval.life import life_of, meter_words
from eldrim.core.interval.plug_choice import PlugChoice, PlugCost
from eldrim.core.interval.weigh import JobMinutes, minutes_of
from eldrim.core.job import Job, Work, settle_job
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.rules.house import DEFAULT_RULES, HouseRules
from eldrim.core.sums import work_out
from eldrim.core.words.language import speaking
from eldrim.demo.load import demo_engines
from tests.builders import engine, tug
from tests.sweeps import examples

ENGINES = {one.id: one for one in demo_engines()}
money = st.floats(0, 400)
minutes = st.floats(0.1, 240)


def worth(  # noqa: PLR0913 - the numbers of one sum
    now: float = 12,
    later: float = 102,
    price: float = 36,
    stop: float = 300,
    lasts: float = 100_000,
    count: int = 1,
    value: float = 1.2,
) -> Worth:
    """Sums of something that lasts so long."""
    like = Fails(2 * lasts, 0.5)
    life = Life(lasts, "km", "a test", like.survives)
    return Worth(value, now, later, price, stop, life, count)


def slow_chance(lasts: float, age: float, count: int) -> float:
    """The chance again, by summing the density of failures in small steps."""
    half, spread = 2 * lasts, 0.5

    def density(at: float) -> float:
        place = math.log(at / half) / spread
        return math.exp(-place * place / 2) / (at * spread * math.sqrt(2 * math.pi))

    def failed(start: float, end: float) -> float:
        width = (end - start) / 4_000
        return sum(density(start + (n + 0.5) * width) * width for n in range(4_000))

    further = lasts - age if lasts - age > lasts / 2 else lasts / 2
    still = 1 - failed(0, age) if age else 1.0
    one = failed(age, age + further) / still - failed(0, further)
    return 1 - (1 - max(0.0, one)) ** count


@pytest.mark.parametrize("share", [0, 0.1, 0.35, 0.5, 0.8, 1.0, 1.4])
@pytest.mark.parametrize("count", [1, 3])
def test_the_sums_are_those_of_the_craft(share: float, count: int) -> None:
    """v·t + P + P·(1 − u/L) against v·(t + w) + P + S × chance, number by number."""
    lasts, price, stop, value = 80_000.0, 36.0, 300.0, 1.2
    one, age = worth(lasts=lasts, price=price, stop=stop, count=count), 80_000.0 * share
    left = 1 - share if share < 1 else 0
    assert one.now(age) == pytest.approx(value * 12 + price + price * left)
    expected = value * 102 + price + stop * slow_chance(lasts, age, count)
    assert one.later(age) == pytest.approx(expected, abs=0.2)


@settings(max_examples=examples(300), deadline=None)
@given(now=minutes, later=minutes, price=money, stop=money, count=st.integers(1, 8))
def test_break_even_is_where_both_are_equal(
    now: float, later: float, price: float, stop: float, count: int
) -> None:
    """Before it later is the cheaper, at it both cost the same, from it on now is, to two lives."""
    one = worth(now, later, price, stop, count=count)
    even, lasts = one.break_even, 100_000.0
    ages = [lasts * n / 50 for n in range(101)]
    if even is None:
        assert all(one.now(age) > one.later(age) for age in ages)
        return
    if even > 0:
        assert one.now(even) == pytest.approx(one.later(even), abs=1e-4)
        assert one.now(even * 0.98) > one.later(even * 0.98) - 1e-9
    assert all(one.now(age) <= one.later(age) + 1e-9 for age in ages if age >= even)


@settings(max_examples=examples(100), deadline=None)
@given(value=st.floats(0.1, 5), more=st.floats(0.1, 5))
def test_dearer_minutes_bring_break_even_nearer(value: float, more: float) -> None:
    """The dearer the way in, the sooner it pays while it is open."""
    cheap, dear = worth(price=150, value=value), worth(price=150, value=value + more)
    if cheap.break_even is not None:
        assert dear.break_even is not None
        assert dear.break_even <= cheap.break_even + 1e-6


def test_a_visit_that_is_said_is_what_the_chance_goes_by() -> None:
    """The longer until the next visit, the dearer it is to wait."""
    like = Fails(200_000, 0.5)
    chances = [
        Life(100_000, "km", "", like.survives, visit=visit).chance(90_000)
        for visit in (1_000, 20_000, 60_000)
    ]
    assert chances == sorted(chances)
    assert chances[0] < 0.01 < chances[2]
    assert Life(100_000, "km", "", like.survives).chance(0) == 0


def test_without_a_life_the_whole_price_counts_and_nothing_breaks_even() -> None:
    """What no interval and no band says cannot be weighed by age."""
    one = Worth(1.2, 10, 60, 20, 300, None)
    assert one.now(5_000) == one.now(0) == 1.2 * 10 + 2 * 20
    assert one.break_even is None


# Lives


def test_lives_come_from_the_sheet_its_figures_or_a_band() -> None:
    """With source and unit; what is converted or a band is marked."""
    plug = life_of(tug(), "late", "plug", "h")
    assert plug is not None
    assert (plug.amount, plug.band) == (1_500, False)
    assert "fleet handbook" in plug.source
    by_km = life_of(tug(), "late", "plug", "km")
    assert by_km is not None
    assert (by_km.amount, by_km.band) == (1_500 * DEFAULT_RULES.km_per_hour, True)
    assert "house rule" in by_km.source
    coil = life_of(tug(), "late", "coil", "km")
    assert coil is not None
    assert (coil.amount, coil.band) == (250_000, True)
    assert coil.survives(250_000) == pytest.approx(0.5)
    assert coil.visit == by_km.amount
    assert life_of(tug(), "late", "rear-cover-gasket", "h") is None


def test_severe_use_shortens() -> None:
    """Where the sheet says so; else the usual interval holds."""
    usual, severe = (life_of(tug(), "late", "air-filter", "h", severe=s) for s in (False, True))
    assert usual is not None
    assert severe is not None
    assert (usual.amount, severe.amount) == (1_000, 500)
    same = life_of(tug(), "late", "breather-hose", "h", severe=True)
    assert same is not None
    assert same.amount == 4_000


@pytest.mark.parametrize(
    ("construction", "km"), [("nickel", 30_000), ("multi_ground", 30_000), ("fine_wire", 80_000)]
)
def test_a_silent_sheet_goes_by_the_construction(construction: str, km: float) -> None:
    """The lower end of the band, marked."""
    plain = engine()
    plug = plain.plugs[0].model_copy(update={"construction": construction})
    life = life_of(plain.model_copy(update={"plugs": (plug,)}), "all", "plug", "km")
    assert life is not None
    assert (life.amount, life.band) == (km, True)


def test_an_interval_of_the_sheet_goes_before_a_figure_only_where_it_is_shorter() -> None:
    """Whichever comes first."""
    plain = {"of": "plug", "source": "fleet", "page": "1"}
    for hours, expected in (("1200 h", 1_200), ("1800 h", 1_500)):
        document = {"format": tug().format, **tug().model_dump(mode="json", exclude_defaults=True)}
        made = Engine.model_validate({**document, "intervals": [{**plain, "hours": hours}]})
        life = life_of(made, "late", "plug", "h")
        assert life is not None
        assert life.amount == expected


def test_meters_are_written_as_people_do() -> None:
    """Thousands apart, with the unit."""
    assert meter_words(48_000.4, "km") == "48\u202f000 km"
    assert meter_words(730, "h") == "730 h"


# Advice


def weigher(sheet: Engine, rules: HouseRules = DEFAULT_RULES) -> Callable[[Job], JobMinutes]:
    """The planner; what was asked before is not planned again."""

    def weigh(job: Job) -> JobMinutes:
        key = (sheet.id, rules.model_dump_json(), job.model_dump_json())
        if key not in _WEIGHED:
            _WEIGHED[key] = minutes_of(compile_plan(sheet, job, rules))
        return _WEIGHED[key]

    return weigh


_WEIGHED: dict[tuple[str, str, str], JobMinutes] = {}


def asked(
    *cylinders: int, work: tuple[Work, ...] = (Work.PLUG,), sheet: Engine | None = None
) -> Job:
    """A settled job."""
    made = sheet or tug()
    variant = next(iter(made.variants))
    return settle_job(Job(cylinders=cylinders, work=work, variant=variant), made)


def advised(
    *cylinders: int,
    meter: float | None = 3_180,
    fitted: dict[str, float] | None = None,
    rules: HouseRules = DEFAULT_RULES,
    work: tuple[Work, ...] = (Work.PLUG,),
    **more: object,
) -> dict[tuple[str, tuple[int, ...]], Advised]:
    """What is worth doing along with plugs on the vee six, by work and cylinders."""
    ran = Ran("h", meter, {"": 2_000.0} if fitted is None else fitted)
    given_ = Given(ran, **more)  # type: ignore[arg-type]
    found = advise(tug(), asked(*cylinders, work=work), weigher(tug(), rules), rules, given_)
    return {(one.work, one.cylinders): one for one in found}


def test_every_other_hole_and_companion_is_asked_about_once() -> None:
    """Holes one by one, what is left of each bank, all that is left, each companion."""
    found = advised(5)
    singles = {key for key in found if len(key[1]) == 1}
    assert singles == {
        *(("plug", (n,)) for n in (1, 2, 3, 4, 6)),
        *(("coil", (n,)) for n in range(1, 7)),
    }
    groups = {key: one.bank for key, one in found.items() if len(key[1]) > 1}
    assert groups["plug", (1, 3)] == "rear"
    assert groups["plug", (2, 4, 6)] == "front"
    assert groups["plug", (1, 2, 3, 4, 6)] == "all"
    assert {key[0] for key in found if not key[1]} == set(tug().companions)


def test_of_very_many_single_holes_are_left_out() -> None:
    """A long engine is answered all the same; how many were not weighed is said."""
    sheet = engine(48)
    job = asked(1, sheet=sheet)
    known = JobMinutes(10.0, {}, frozenset())
    found = advise(sheet, job, lambda _: known, DEFAULT_RULES)
    assert len(found) == 60
    assert sum(one.bank == "all" for one in found) == 2
    assert not_weighed(sheet, job, DEFAULT_RULES) == 47 + 48 + 2 - 60
    assert not_weighed(tug(), asked(5), DEFAULT_RULES) == 0


def test_one_bank_is_all_others() -> None:
    """An engine in line has no bank to be named."""
    sheet = ENGINES["corvane-20-turbo-four"]
    job = asked(1, sheet=sheet)
    found = advise(sheet, job, weigher(sheet), DEFAULT_RULES)
    groups = [(one.work, one.bank, one.cylinders) for one in found if one.bank]
    assert sorted(groups) == [("coil", "all", (1, 2, 3, 4)), ("plug", "all", (2, 3, 4))]


@pytest.mark.parametrize(("work", "at"), [("plug", (1, 3)), ("plug", (2,)), ("coil", (5,))])
def test_minutes_are_differences_of_whole_plans(work: str, at: tuple[int, ...]) -> None:
    """What the job takes longer, and what a job of its own takes, to the tenth."""
    one = advised(5)[work, at]
    whole = Job(cylinders=(5, *(n for n in at if n != 5)), work=(Work.PLUG, Work.COIL))
    where = {"plug": {"plugs_at": (5, *at), "carriers_at": ()}, "coil": {"carriers_at": at}}[work]
    kinds = (Work.PLUG,) if work == "plug" else (Work.PLUG, Work.COIL)
    if work == "plug" or set(at) == {5}:
        where = {}
    both = compile_plan(tug(), whole.model_copy(update={"work": kinds, **where}))
    alone = compile_plan(tug(), Job(cylinders=at, work=(Work(work),)))
    here = compile_plan(tug(), Job(cylinders=(5,), work=(Work.PLUG,)))
    assert one.extra == pytest.approx(both.minutes - here.minutes, abs=0.05)
    assert one.later == alone.minutes
    assert 0 <= one.own <= one.extra + 3


def test_a_closed_bank_adds_its_own_way_in() -> None:
    """The rear bank along with a front plug costs its plenum; along with a rear one it does not."""
    front, rear = advised(2), advised(5)
    assert front["plug", (1,)].more_moves
    assert not rear["plug", (1,)].more_moves
    assert front["plug", (1,)].extra > rear["plug", (1,)].extra + 30


@pytest.mark.parametrize("meter", [2_050, 2_500, 3_180, 3_600, 6_000])
def test_the_advice_is_what_the_sums_say(meter: float) -> None:
    """Now where it costs no more, and exactly from the break-even reading on."""
    for one in advised(2, meter=meter).values():
        if one.worth.life is None:
            assert one.advice == "look"
            continue
        assert one.used == meter - 2_000
        cheaper = one.worth.now(one.used) <= one.worth.later(one.used)
        assert one.advice == ("now" if cheaper else "later")
        even = one.worth.break_even
        assert cheaper == (even is not None and one.used >= even - 1e-6)


def test_house_rules_on_waste_decide() -> None:
    """Never before its interval, or whenever nothing more has to move."""
    strict = DEFAULT_RULES.model_copy(update={"waste_of_life": "at_interval"})
    by_interval = advised(5, rules=strict)
    assert by_interval["plug", (1, 3)].advice == "later"
    assert by_interval["air-filter", ()].advice == "now"
    loose = DEFAULT_RULES.model_copy(update={"waste_of_life": "while_open"})
    open_now = advised(5, rules=loose, meter=None)
    assert open_now["plug", (1, 3)].advice == "now"
    assert open_now["breather-hose", ()].advice == "now"
    assert advised(2, rules=loose)["plug", (1,)].advice == "later"


def test_what_is_not_known_is_looked_at() -> None:
    """Without an age; unless it pays at any age."""
    unknown = advised(2, fitted={})
    assert unknown["coil", (2, 4, 6)].used is None
    assert unknown["coil", (2, 4, 6)].advice == "look"
    assert advised(5, fitted={})["plug", (1, 3)].advice == "now"
    some = advised(2, fitted={"plug": 2_000, "plug/4": 100})
    assert some["plug", (4,)].used == 3_080
    assert some["plug", (6,)].used == 1_180
    assert some["plug", (4, 6)].used == 3_080
    assert some["coil", (4,)].used is None


def test_coils_that_a_school_renews_are_not_asked_about_again() -> None:
    """Exposed bank: its coils are in the job already."""
    rules = DEFAULT_RULES.using(coils="exposed_bank")
    both = (Work.COIL, Work.PLUG)
    found = advised(5, rules=rules, work=both)
    assert {at for work, at in found if work == "coil" and len(at) == 1} == {(2,), (4,), (6,)}


def test_a_stop_costs_what_the_unit_says_and_a_filter_stops_nothing() -> None:
    """The unit's own cost goes before the house's."""
    dear, free = advised(2, stop_cost=5_000.0), advised(2, stop_cost=0.0)
    at = ("coil", (2, 4, 6))
    assert dear[at].worth.later(1_180) > free[at].worth.later(1_180) + 100
    assert dear["air-filter", ()].worth.stop == 0
    assert dear[at].worth.price == 3 * price_of(tug(), "late", "coil") == 3 * 46


def answer(
    meter: float | None = 3_180, fitted: float | None = 2_000, **more: object
) -> AdviceAnswer:
    """The same told."""
    since = {} if fitted is None else {"": fitted}
    known = Given(Ran("h", meter, since), **more)  # type: ignore[arg-type]
    job = asked(2)
    found = advise(tug(), job, weigher(tug()), DEFAULT_RULES, known)
    return told(tug(), ("Plug, hole 2", 30.0, 0), found, DEFAULT_RULES, known)


def test_the_line_says_here_later_and_the_break_even() -> None:
    """As a trainer would: both sums, where they meet, where it stands."""
    groups = answer(meter=2_180).groups
    coils = next(one for one in groups if one.what == "coils of the front bank")
    assert coils.cylinders == (2, 4, 6)
    assert coils.cylinder is None
    assert coils.break_even is not None
    reading = float(coils.break_even.removesuffix(" h"))
    assert reading > 2_000
    assert coils.because.startswith("Coils of the front bank later: ")
    assert "at 2\u202f180 h now" in coils.because
    assert len(coils.sums) == 3
    assert coils.now_cost is not None
    assert coils.later_cost is not None
    assert coils.now_cost > coils.later_cost
    at_even = next(
        one for one in answer(meter=reading).groups if one.what == "coils of the front bank"
    )
    assert at_even.now_cost == pytest.approx(at_even.later_cost, abs=0.05)


def test_what_is_new_past_or_unknown_is_said() -> None:
    """Beside the sums."""
    filters = {
        meter: next(o for o in answer(meter=meter, fitted=since).items if o.work == "air-filter")
        for meter, since in ((2_020.0, 2_000.0), (3_180.0, 2_000.0))
    }
    assert filters[2_020].because.endswith("as good as new: only if it is suspect")
    assert filters[3_180].because.endswith("past its interval")
    gasket = next(o for o in answer().items if o.work == "rear-cover-gasket")
    assert gasket.because.endswith("now if oil in a well, or wet along the edge of the cover")
    assert gasket.now_cost is None
    unknown = next(o for o in answer(None, None).groups if o.what == "coils of the front bank")
    assert unknown.advice == "look"
    assert "break-even after" in unknown.because


def test_it_is_told_in_german() -> None:
    """Every line, with the sheet's own words."""
    with speaking("de"):
        lines = [one.because for one in (*answer().items, *answer().groups)]
    assert any(line.startswith("Luftfilter ") for line in lines)
    assert not [line for line in lines if " here" in line or "later" in line]


@pytest.mark.parametrize("key", list(ENGINES))
def test_every_demo_engine_is_advised_on(key: str) -> None:
    """All shapes, leads and coils; each candidate with minutes that add up."""
    sheet = ENGINES[key]
    job = asked(max(sheet.cylinders), sheet=sheet)
    ran = Ran("km", 90_000.0, {"": 20_000.0})
    found = advise(sheet, job, weigher(sheet), DEFAULT_RULES, Given(ran))
    assert found
    for one in found:
        assert one.later > 0
        assert one.extra < one.later + 0.05
        assert one.own >= 0
    ranks = [("now", "look", "later").index(one.advice) for one in found]
    assert ranks == sorted(ranks)


# Which plug


def test_a_long_life_pays_where_getting_there_is_dear() -> None:
    """Behind a dear way in the long one is the cheaper of two, in the open the other."""
    short, long_ = PlugCost(6, 6, 40_000, "km"), PlugCost(22, 6, 100_000, "km")
    assert PlugChoice(125, 1.2, short, long_).better == "offered"
    assert PlugChoice(15, 1.2, short, long_).better == "sheet"
    assert PlugChoice(15, 1.2, short, short).better == "alike"


@settings(max_examples=examples(100), deadline=None)
@given(minutes_=st.floats(5, 200), price=st.floats(1, 60), life=st.floats(10_000, 200_000))
def test_at_the_even_price_both_cost_the_same(minutes_: float, price: float, life: float) -> None:
    """Whatever the way in."""
    mine = PlugCost(9, 4, 60_000, "km")
    choice = PlugChoice(minutes_, 1.2, mine, PlugCost(price, 4, life, "km"))
    even = PlugCost(choice.even_price, 4, life, "km")
    assert even.running(minutes_, 1.2) == pytest.approx(mine.running(minutes_, 1.2))
    assert len(choice.words()) == 4


def test_the_quick_sum_is_the_same_law() -> None:
    """Without an engine; blank fields are the house's."""
    asked = {"here": "12", "later": "102", "price": "150", "life": "100000", "used": "60000"}
    found = work_out("along", asked).values
    one = worth(price=150)
    assert found["now"] == pytest.approx(one.now(60_000), abs=0.01)
    assert found["later"] == pytest.approx(one.later(60_000), abs=0.01)
    assert found["break_even"] == pytest.approx(one.break_even, abs=0.1)
    dear = work_out("along", {**asked, "value": "3", "stop": "0"}).values
    assert dear["later"] == pytest.approx(3 * 102 + 150)
    with pytest.raises(ProblemsError, match="later takes less"):
        work_out("along", {**asked, "later": "5"})
