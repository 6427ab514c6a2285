"""The life of a unit on one axis: gaps by hole with their range and where they leave it, what was
done, the battery. Works in grey: lines differ by weight, what comes is dashed and hatched.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import date, timedelta
from statistics import fmean
from uuid import UUID

from eldrim.core.engine.targets import hole_order
from eldrim.core.interval.foreseen import LEAST_POINTS
from eldrim.core.interval.life import meter_words
from eldrim.core.interval.use import Span, Use, when
from eldrim.core.run.life import Gap, Moment, UnitLife
from eldrim.core.words.language import day_words
from eldrim.core.words.messages import gettext
from eldrim.drawing import unit_life_rows as rows
from eldrim.drawing.svg import el, path, text, title

WIDTH, LEFT, RIGHT = 860.0, 54.0, 24.0
TOP, GAPS, AXIS, WORK, VOLTS = 34.0, 230.0, 56.0, 62.0, 84.0
TICKS = 6
LABEL, LETTER = 15.0, 7.4


@dataclass(frozen=True)
class Axis:
    """Where a moment lies: by meter or by day; ``unit`` is what the meter counts."""

    by_date: bool
    unit: str
    start: float
    end: float
    left: float = LEFT
    right: float = WIDTH - RIGHT

    def x(self, value: float) -> float:
        """Across the picture."""
        span = (self.end - self.start) or 1.0
        return LEFT + (value - self.start) / span * (WIDTH - LEFT - RIGHT)

    def at(self, moment: Moment) -> float:
        """A run's place."""
        return self.x(float(moment.day.toordinal()) if self.by_date else moment.meter)

    def words(self, value: float) -> str:
        """A place in words."""
        if self.by_date:
            return day_words(date.fromordinal(round(value)))
        return meter_words(value, self.unit)


@dataclass(frozen=True)
class Now:
    """Today, where the meter stands now as it was read last, and a day's use; how fast gaps of its
    like grow, in mm to one of its meter; planned and real cost by run.
    """

    today: date
    stood: float
    read_on: date
    use: Use | None = None
    fleet: float | None = None
    costs: Mapping[UUID, rows.CostOfRun] = field(default_factory=dict)


def draw(life: UnitLife, now: Now, unit: str, *, by_date: bool = False) -> str:
    """The picture as an SVG element; empty where nothing is known."""
    if not life.worked:
        return ""
    axis = _axis(life, now, unit, by_date=by_date)
    has_gaps = bool(life.sets) and life.low is not None and life.high is not None
    shapes, top = [], TOP
    if has_gaps:
        shapes.append(_gaps(life, now, axis, top))
        top += GAPS
    shapes.append(_axis_marks(axis, top))
    top += AXIS
    shapes.append(_work(life, axis, top))
    top += WORK
    if life.faces:
        shapes.append(rows.faces(life.faces, axis, top))
        top += rows.faces_height(life.faces)
    if life.noted:
        shapes.append(rows.marks(life.noted, axis, top))
        top += rows.MARKS
    if len(life.volts) > 1:
        shapes.append(_volts(life, axis, top))
        top += VOLTS
    if now.costs:
        shapes.append(rows.costs(tuple(one.at for one in life.worked), now.costs, axis, top))
        top += rows.COSTS
    shapes.append(_today(axis, now, top))
    return el(
        "svg",
        title(gettext("The life of the unit")),
        *shapes,
        class_="unit-life",
        viewBox=f"0 0 {WIDTH:g} {top + 10:g}",
        role="group",
        aria_label=gettext("Gaps, work and battery over its life; the tables below say the same."),
    )


def _axis(life: UnitLife, now: Now, unit: str, *, by_date: bool) -> Axis:
    moments = [one.at for one in life.worked]
    if by_date:
        days = [moment.day.toordinal() for moment in moments]
        ahead = [span.last.toordinal() for span in _spans(life, now)]
        last = max([*days, now.today.toordinal() + 60, *ahead])
        return Axis(by_date, unit, float(min(days)), float(min(last, max(days) + 500)))
    meters = [moment.meter for moment in moments]
    known = [one for one in life.crossings.values() if one.last is not None]
    ends = [one.last for one in known if one.last is not None and one.points >= LEAST_POINTS]
    furthest = max([*meters, now.stood, *ends])
    spread = max(meters) - min(meters) or 1.0
    end = min(furthest, max(meters) + spread * 0.6) + spread * 0.05
    return Axis(by_date, unit, min(meters), end)


def _spans(life: UnitLife, now: Now) -> Iterator[Span]:
    for one in life.crossings.values():
        if one.last is not None and one.points >= LEAST_POINTS and now.use is not None:
            yield when(one.last, (now.read_on, now.stood), now.use)


def _gaps(life: UnitLife, now: Now, axis: Axis, top: float) -> str:
    assert life.low is not None
    assert life.high is not None
    values = [g.gap for sets in life.sets.values() for one in sets for g in one]
    least, most = min([*values, life.low]) - 0.02, max([*values, life.high]) + 0.03
    bottom = top + GAPS - 20

    def y(gap: float) -> float:
        return bottom - (gap - least) / (most - least) * (bottom - top - 14)

    band = el(
        "rect",
        x=LEFT,
        y=y(life.high),
        width=WIDTH - LEFT - RIGHT,
        height=y(life.low) - y(life.high),
        class_="range",
    )
    shapes = [
        text(
            LEFT, top - 14, gettext("Gap in mm, {count} holes", count=len(life.sets)), class_="head"
        ),
        band,
        text(LEFT - 6, y(life.high) + 4, f"{life.high:.4g}", class_="value"),
        text(LEFT - 6, y(life.low) + 4, f"{life.low:.4g}", class_="value"),
    ]
    worst = _worst(life)
    ends: list[tuple[float, float, str]] = []
    for hole in sorted(life.sets, key=hole_order):
        bold = hole == worst
        for one in life.sets[hole]:
            shapes.append(_line(hole, one, axis, y, bold=bold))
        last = life.sets[hole][-1][-1]
        ends.append((axis.at(last.at), y(last.gap), hole))
    shapes += _labels(ends, worst)
    shapes.append(_fleet(life, now, axis, y))
    shapes += [_leaves(life, now, hole, axis, y) for hole in sorted(life.crossings, key=hole_order)]
    return "".join(shapes)


def _fleet(life: UnitLife, now: Now, axis: Axis, y: Callable[[float], float]) -> str:
    """How a gap of its like would have grown since its newest set was fitted: dotted."""
    last = [sets[-1][0] for sets in life.sets.values() if sets[-1][0].new]
    if now.fleet is None or not last:
        return ""
    first = max((one.at for one in last), key=lambda at: at.meter)
    fitted = fmean(one.gap for one in last)
    grown = fitted + now.fleet * (now.stood - first.meter)
    end = float(now.read_on.toordinal()) if axis.by_date else now.stood
    line = path([(axis.at(first), y(fitted)), (axis.x(end), y(grown))], closed=False)
    return el("path", title(gettext("As gaps of its like grow")), d=line, class_="fleet")


def _worst(life: UnitLife) -> str:
    """The hole that leaves its range first, of those that surely do."""
    known = {
        h: c.likely
        for h, c in life.crossings.items()
        if c.points >= LEAST_POINTS and c.last is not None
    }
    return min(known, key=lambda hole: known[hole], default="")


def _line(
    hole: str, gaps: list[Gap], axis: Axis, y: Callable[[float], float], *, bold: bool
) -> str:
    points = [(axis.at(one.at), y(one.gap)) for one in gaps]
    line = el("path", d=path(points, closed=False), class_="wear bold" if bold else "wear")
    dots = "".join(
        el(
            "a",
            title(
                gettext(
                    "Hole {hole}: {gap} mm {new}, {day}",
                    hole=hole,
                    gap=f"{g.gap:g}",
                    new=gettext("as left") if g.new else gettext("as found"),
                    day=day_words(g.at.day),
                )
            ),
            el("circle", cx=x, cy=at, r=3.4 if g.new else 2.6, class_="new" if g.new else "found"),
            href=f"/log/{g.at.run}",
        )
        for (x, at), g in zip(points, gaps, strict=True)
    )
    return line + dots


def _labels(ends: list[tuple[float, float, str]], worst: str) -> list[str]:
    """The holes at the ends of their lines, those close together as one."""
    groups: list[tuple[float, float, list[str]]] = []
    for x, y, hole in sorted(ends, key=lambda end: (round(end[0]), end[1])):
        near = groups and abs(groups[-1][0] - x) < 4 and abs(groups[-1][1] - y) < LABEL
        if near and worst not in (hole, *groups[-1][2]):
            groups[-1][2].append(hole)
        else:
            groups.append((x, y, [hole]))
    return [
        text(x + 7, y + 4, " ".join(sorted(holes, key=hole_order)), class_="hole")
        for x, y, holes in groups
    ]


def _leaves(life: UnitLife, now: Now, hole: str, axis: Axis, y: Callable[[float], float]) -> str:
    """Where a gap leaves its range: dashed to there, hatched from when to when."""
    one = life.crossings[hole]
    if (
        one.last is None
        or one.points < 3
        or one.out
        or life.high is None
        or not life.sets.get(hole)
    ):
        return ""
    last = life.sets[hole][-1][-1]
    if axis.by_date:
        if now.use is None:
            return ""
        stood = (now.read_on, now.stood)
        ends = [float(when(m, stood, now.use).likely.toordinal()) for m in (one.first, one.last)]
        middle = float(when(one.likely, stood, now.use).likely.toordinal())
        said = f"{day_words(date.fromordinal(round(ends[0])))} to "
        said += day_words(date.fromordinal(round(ends[1])))
    else:
        ends, middle = [one.first, one.last], one.likely
        said = f"{meter_words(one.first, '').strip()} to {meter_words(one.last, axis.unit)}"
    first, end = (min(WIDTH - RIGHT, max(LEFT, axis.x(value))) for value in ends)
    at = y(life.high)
    dashed = path([(axis.at(last.at), y(last.gap)), (min(WIDTH, axis.x(middle)), at)], closed=False)
    box = el("rect", x=first, y=at - 9, width=max(3.0, end - first), height=18, class_="span")
    return (
        el("path", d=dashed, class_="ahead") + box + _span_words(f"hole {hole}: {said}", first, at)
    )


def _span_words(words: str, first: float, at: float) -> str:
    """Above its span, from its first end on where there is room."""
    from_start = WIDTH - first > LETTER * len(words)
    x, anchor = (first, "start") if from_start else (WIDTH - 2, "end")
    return text(x, at - 15, words, class_="forecast", text_anchor=anchor)


def _axis_marks(axis: Axis, top: float) -> str:
    shapes = [el("path", d=f"M{LEFT:g} {top:g}H{WIDTH - RIGHT:g}", class_="axis")]
    for place in range(TICKS):
        value = axis.start + (axis.end - axis.start) * place / (TICKS - 1)
        x = axis.x(value)
        anchor = "start" if place == 0 else "end" if place == TICKS - 1 else "middle"
        shapes.append(el("path", d=f"M{x:.1f} {top:g}v6", class_="axis"))
        shapes.append(text(x, top + 21, axis.words(value), class_="tick", text_anchor=anchor))
    return "".join(shapes)


def _work(life: UnitLife, axis: Axis, top: float) -> str:
    y = top + 12
    shapes = [
        text(LEFT, top - 6, gettext("Work; a square is plugs"), class_="head"),
        el("path", d=f"M{LEFT:g} {y:g}H{WIDTH - RIGHT:g}", class_="axis"),
    ]
    for one in life.worked:
        x = axis.at(one.at)
        mark = (
            el("rect", x=x - 5, y=y - 5, width=10, height=10, class_="plugs")
            if one.plugs
            else el("circle", cx=x, cy=y, r=3, class_="other")
        )
        new = gettext("; new: {parts}", parts=", ".join(map(gettext, one.new))) if one.new else ""
        when = f"{day_words(one.at.day)}, {meter_words(one.at.meter, axis.unit)}"
        shapes.append(el("a", title(f"{one.job}, {when}{new}"), mark, href=f"/log/{one.at.run}"))
    return "".join(shapes)


def _volts(life: UnitLife, axis: Axis, top: float) -> str:
    values = [one.volts for one in life.volts]
    least = min([*values, *([life.rest] if life.rest else [])]) - 0.05
    most = max(values) + 0.05
    bottom = top + VOLTS - 22

    def y(volts: float) -> float:
        return bottom - (volts - least) / (most - least) * (bottom - top - 10)

    points = [(axis.at(one.at), y(one.volts)) for one in life.volts]
    shapes = [
        text(LEFT, top - 4, gettext("Battery at rest, V"), class_="head"),
        el("path", d=path(points, closed=False), class_="wear bold"),
        text(LEFT - 6, points[0][1] + 4, f"{values[0]:.2f}", class_="value"),
        text(
            min(WIDTH - RIGHT, points[-1][0] + 6),
            points[-1][1] - 6,
            f"{values[-1]:.2f}",
            class_="hole",
        ),
    ]
    if life.rest is not None:
        at = y(life.rest)
        shapes.append(el("path", d=f"M{LEFT:g} {at:.1f}H{WIDTH - RIGHT:g}", class_="ahead"))
        shapes.append(text(LEFT - 6, at + 4, f"{life.rest:g}", class_="value"))
    return "".join(shapes)


def _today(axis: Axis, now: Now, bottom: float) -> str:
    value = now.stood
    if axis.by_date:
        value = float(now.today.toordinal())
    elif now.use is not None:
        value += now.use.per_day * max(0, (now.today - now.read_on) // timedelta(days=1))
    if not axis.start <= value <= axis.end:
        return ""
    x = axis.x(value)
    line = el("path", d=f"M{x:.1f} {TOP - 6:g}V{bottom:g}", class_="today")
    return line + text(x - 5, TOP - 10, gettext("today"), class_="today-word", text_anchor="end")
