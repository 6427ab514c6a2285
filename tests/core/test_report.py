"""What is read of a run afterwards: readings against windows, marks, real minutes, what is due."""

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from uuid import UUID, uuid4

from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import SIGNING
from eldrim.core.run.due import NEXT_DATE, NEXT_METER, RECHECK, DueKind, Signed, due
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.report import MAX_STEP_MINUTES, marked_words, report, step_minutes, window
from eldrim.core.run.state import fold
from tests.builders import job, tug

K = EntryKind
PLAN = compile_plan(tug(), job(2))
START = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)
KEYS = [s.key for s in PLAN.steps]


def wrote(
    kind: EntryKind, step: str, minute: float = 0, by: str = "tam", **more: object
) -> Recorded:
    """An entry written so many minutes after eight."""
    at = START + timedelta(minutes=minute)
    entry = Entry.model_validate({"id": uuid4(), "kind": kind, "step": step, "made": at, **more})
    return Recorded(entry=entry, by=by, role=Role.TECHNICIAN, at=at)


def line(entries: list[Recorded], key: str):  # type: ignore[no-untyped-def]
    """One line of the report."""
    return next(x for x in report(PLAN, entries) if x.key == key)


def test_each_reading_stands_against_its_window() -> None:
    """Inside, outside with its reason, and who accepted it."""
    high = wrote(K.DEVIATION, "torque/plug/2", value=31.0, reading="torque", reason="clicked late")
    entries = [
        wrote(K.READING, "ready/battery", reading="volts", value=12.6),
        high,
        wrote(K.ACCEPT, "", by="lead", refers_to=high.entry.id),
        wrote(K.DONE, "ready/battery", 3),
    ]
    battery = line(entries, "ready/battery")
    assert [(v.label, v.value, v.window, v.outside) for v in battery.values] == [
        ("At rest", "12.6", "≥ 12.3 V", False)
    ]
    assert (battery.by, battery.at) == ("tam", START + timedelta(minutes=3))
    [torque] = line(entries, "torque/plug/2").values
    assert (torque.value, torque.window, torque.outside) == ("31", "15 to 20 N·m", True)
    assert (torque.reason, torque.accepted) == ("clicked late", "lead")


def test_marks_say_what_was_met_and_how_it_ended() -> None:
    """A stop cleared, a step left out, what differed, who released."""
    stop = wrote(K.STOP, "remove/plug/2", reason="plug_binds")
    entries = [
        stop,
        wrote(K.DIFFERS, "remove/plug/2", reason="longer"),
        wrote(K.RELEASE, "remove/plug/2", by="lead"),
        wrote(K.SKIP, "ready/codes", reason="tool"),
    ]
    open_one = line(entries, "remove/plug/2").marks
    assert open_one == ("Plug binds coming out: Still open", "Took much longer", "hold point: lead")
    cleared = [*entries, wrote(K.RESUME, "remove/plug/2", refers_to=stop.entry.id)]
    assert "It came out without force (tam, 2 Mar 20" in line(cleared, "remove/plug/2").marks[0]
    out = line(entries, "ready/codes")
    assert (out.left_out, out.marks) == (True, ("NOT DONE: Tool is not here",))


def test_a_window_is_said_by_the_limits_it_has() -> None:
    """Both, one, none."""
    readings = {r.key: r for s in PLAN.steps for r in s.readings}
    assert window(readings["free_turns"]) == "≥ 2 turns"
    assert window(readings["temperature"]) == "5 to 40 °C"
    assert window(readings["meter"]) == ""


@given(st.lists(st.floats(0.1, 90), min_size=2, max_size=12))
def test_minutes_run_from_one_closing_to_the_next_and_pauses_are_none(gaps: list[float]) -> None:
    """The sum of what is told never exceeds the time there was."""
    minute, entries = 0.0, [wrote(K.READING, KEYS[0], reading="meter", value=1.0)]
    for key, gap in zip(KEYS, gaps, strict=False):
        minute += gap
        entries.append(wrote(K.DONE, key, minute))
    told = step_minutes(PLAN, entries[::-1])
    assert sum(told.values()) <= minute + 0.1
    for key, gap in zip(KEYS, gaps, strict=False):
        assert (key in told) is (gap <= MAX_STEP_MINUTES + 1e-6)


def signed(unit: str, day: int, job_name: str = "Plugs", **values: object) -> Signed:
    """A signed run that set these at its signing."""
    entries = [wrote(K.READING, SIGNING, reading=k, value=v) for k, v in values.items()]
    at = START + timedelta(days=day)
    return Signed(UUID(int=day), unit, unit.title(), job_name, "hours", at, fold(entries))


def test_what_was_left_out_stays_until_a_later_run_does_it() -> None:
    """Of whatever job; or until somebody says why it need not be done."""
    first = replace(signed("tug", 1), left_out={"remove/plug/4": "Remove plug 4: seized"})
    [open_] = due([first])
    assert (open_.kind, open_.what) == (DueKind.NOT_DONE, "Not done: Remove plug 4: seized")
    assert not open_.overdue(date(2099, 1, 1)), "it has no day"
    assert len(due([first, signed("tug", 9), signed("tug", 40, "Coils")])) == 1
    again = replace(signed("tug", 9), left_out={"remove/plug/4": "Remove plug 4: no tool"})
    assert [d.run for d in due([first, again])] == [again.run]
    other = replace(signed("tug", 40, "Coils"), done=frozenset({"remove/plug/4"}))
    assert not due([first, other])
    assert not due([replace(first, withdrawn=frozenset({DueKind.NOT_DONE}))])


def test_what_plugs_ask_for_stays_until_they_are_read_again() -> None:
    """After the re-check distance where the meter was read; or until it is withdrawn."""
    meter = wrote(K.READING, "ready/unit", reading="meter", value=100.0)
    first = replace(
        signed("tug", 1), state=fold([meter]), follow_ups={"read/plug/4": "Follow up: oil"}
    )
    [open_] = due([first])
    assert (open_.kind, open_.what, open_.meter) == (DueKind.FOLLOW_UP, "Follow up: oil", 105.0)
    assert len(due([first, signed("tug", 9)])) == 1
    other = replace(signed("tug", 40, "Coils"), done=frozenset({"read/plug/4"}))
    assert not due([first, other])
    again = replace(signed("tug", 9), follow_ups={"read/plug/4": "Follow up: still oil"})
    assert [d.run for d in due([first, again])] == [again.run]
    assert not due([replace(first, withdrawn=frozenset({DueKind.FOLLOW_UP}))])


def test_the_newest_run_of_a_job_sets_what_is_due() -> None:
    """Soonest first; a meter alone comes last; another job is another thing."""
    found = due(
        [
            signed("tug", 1, **{NEXT_DATE: "2026-06-01", NEXT_METER: 500.0}),
            signed("tug", 9, **{NEXT_DATE: "2027-06-01", RECHECK: "2026-04-01"}),
            signed("boat", 2, **{NEXT_METER: 900.0}),
            signed("tug", 3, "Coils", **{NEXT_DATE: "2026-12-01"}),
            signed("sweeper", 4),
        ]
    )
    assert [(d.unit, d.what, d.on, d.meter) for d in found] == [
        ("tug", "Re-check: Plugs", date(2026, 4, 1), None),
        ("tug", "Coils", date(2026, 12, 1), None),
        ("tug", "Plugs", date(2027, 6, 1), None),
        ("boat", "Plugs", None, 900.0),
    ]
    assert found[0].overdue(date(2026, 4, 2))
    assert not found[0].overdue(date(2026, 4, 1))
    assert not found[-1].overdue(date(2030, 1, 1))


def test_what_is_due_survives_a_signing_that_says_nothing_of_it() -> None:
    """Until it is done on its day or at its meter, or withdrawn."""
    first = signed("tug", 1, **{NEXT_DATE: "2026-06-01", RECHECK: "2026-04-01"})
    early = signed("tug", 9)
    assert {d.what for d in due([first, early])} == {"Plugs", "Re-check: Plugs"}
    # START is 2 March: forty days on the re-check has come, the work has not.
    assert {d.what for d in due([first, early, signed("tug", 40)])} == {"Plugs"}
    assert not due([first, early, signed("tug", 100)])
    meter = signed("boat", 1, **{NEXT_METER: 900.0})
    read = [
        wrote(K.READING, "ready/unit", reading="meter", value=value) for value in (899.0, 900.0)
    ]
    later = [replace(signed("boat", 5), state=fold([one])) for one in read]
    assert [len(due([meter, run])) for run in later] == [1, 0]
    assert not due([replace(first, withdrawn=frozenset(DueKind))])


def test_a_note_is_read_with_its_reason_everywhere() -> None:
    """On the run sheet, and to the trainer."""
    noted = wrote(K.DIFFERS, "remove/plug/2", reason="other_size", note="18 mm hex")
    assert line([noted], "remove/plug/2").marks == ("Other fastener or size: 18 mm hex",)
    assert marked_words(noted.entry) == "Other fastener or size: 18 mm hex"
