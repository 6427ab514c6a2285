"""A week over bays: a row a bay, a column a day, a bar a job; what clashes is crossed."""

from collections.abc import Collection, Mapping, Sequence

from eldrim.core.interval.week import Placed, Shop, WeekJob
from eldrim.core.words.language import day_words, weekday_words
from eldrim.core.words.messages import gettext, ngettext
from eldrim.drawing.svg import el, text, title

NAMES, DAY, ROW, HEAD, GAP = 92.0, 212.0, 62.0, 30.0, 8.0
LETTER = 6.6


def draw(
    shop: Shop,
    jobs: Mapping[str, WeekJob],
    placed: Sequence[Placed],
    clashing: Collection[str] = (),
) -> str:
    """The bars of a week as an SVG element."""
    width = NAMES + DAY * len(shop.days)
    height = HEAD + ROW * len(shop.bays)
    shapes = [_head(shop), *(_row(shop, place) for place in range(len(shop.bays)))]
    numbers = numbered(placed)
    shapes += [
        _bar(shop, jobs[one.key], one, f"{numbers[one.key]}", clashes=one.key in clashing)
        for one in placed
        if one.key in jobs
    ]
    return el(
        "svg",
        title(
            gettext(
                "{jobs} over {bays}",
                jobs=ngettext("{count} job", "{count} jobs", len(placed)),
                bays=ngettext("{count} bay", "{count} bays", len(shop.bays)),
            )
        ),
        *shapes,
        class_="week-bars",
        viewBox=f"0 0 {width:g} {height:g}",
        role="img",
        aria_label=gettext("The week as bars; the table below says the same."),
    )


def numbered(placed: Sequence[Placed]) -> dict[str, int]:
    """The number of each job in the week, as it stands in its bar and in the table."""
    order = sorted(placed, key=lambda one: (one.day, one.start, one.bay, one.key))
    return {one.key: place for place, one in enumerate(order, 1)}


def clock(minute: int) -> str:
    """A time of day: ``08:15``."""
    return f"{minute // 60:02d}:{minute % 60:02d}"


def _head(shop: Shop) -> str:
    names = [
        f"{weekday_words(day, short=True)} {day_words(day).rsplit(' ', 1)[0]}" for day in shop.days
    ]
    said = [
        text(NAMES + DAY * place + 2, HEAD - 10, name, class_="day-name")
        for place, name in enumerate(names)
    ]
    return "".join(said)


def _row(shop: Shop, place: int) -> str:
    top = HEAD + ROW * place
    shapes = [text(0, top + 22, shop.bays[place], class_="bay-name")]
    for day in range(len(shop.days)):
        x = NAMES + DAY * day
        shapes.append(
            el("rect", x=x, y=top, width=DAY - GAP, height=ROW - GAP, class_="open-hours")
        )
        noon = x + (12 * 60 - shop.opens) / (shop.closes - shop.opens) * (DAY - GAP)
        if x < noon < x + DAY - GAP:
            shapes.append(el("path", d=f"M{noon:.1f} {top:g}v{ROW - GAP:g}", class_="noon"))
    return "".join(shapes)


def _bar(shop: Shop, job: WeekJob, one: Placed, number: str, *, clashes: bool) -> str:
    if one.day not in shop.days or one.bay not in shop.bays:
        return ""
    span = (DAY - GAP) / (shop.closes - shop.opens)
    x = NAMES + DAY * shop.days.index(one.day) + (one.start - shop.opens) * span
    top = HEAD + ROW * shop.bays.index(one.bay) + 3
    width, height = job.minutes * span, ROW - GAP - 6
    late = job.due is not None and one.day > job.due
    shapes = [
        title(
            f"{clock(one.start)} {job.unit}: {job.words}; {one.person}"
            + (gettext(", late") if late else "")
        ),
        el("rect", x=x, y=top, width=width, height=height, class_="job"),
        text(x + 4, top + 17, number, class_="job-unit"),
        text(x + 4, top + 31, _fitting(job.unit, width), class_="job-person"),
        text(x + 4, top + 44, _fitting(one.person, width), class_="job-person"),
    ]
    if late:
        shapes.append(el("path", d=f"M{x:.1f} {top + height - 3:g}h{width:.1f}", class_="late"))
    if clashes:
        d = f"M{x:.1f} {top:g}l{width:.1f} {height:g}m0 {-height:g}l{-width:.1f} {height:g}"
        shapes.append(el("path", d=d, class_="clash"))
    return el("g", *shapes, class_="bar", data_job=one.key)


def _fitting(words: str, width: float) -> str:
    """So much of the words as fits a bar; nothing rather than a letter or two."""
    room = int((width - 6) / LETTER)
    if len(words) <= room:
        return words
    return f"{words[: room - 1]}…" if room >= 4 else ""
