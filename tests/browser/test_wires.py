"""The jobs with wires in Chromium: cap and leads with a crossed pair, timing by the lamp."""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import People
from tests.browser.hands import (
    ahead,
    card,
    do_step,
    faults,
    start_at,
    step_now,
    typed,
    wind_on,
    write_reading,
)

pytestmark = pytest.mark.browser
LAUNCH = {"gap_found": "0.039", "gap_left": "0.035", "torque": "27", "meter": "4000"}
# A ground power set of 24 V.
GROUND = {"volts": "25.2", "meter": "4000"}


def besides(page: Page, words: str) -> None:
    """Ask for work at no hole, and wait until the page has it."""
    link = page.locator(".choose-more a", has_text=words)
    link.click()
    expect(link).to_have_attribute("aria-current", "true")


def test_cap_rotor_and_leads_from_the_desk_to_a_signature(person: People) -> None:
    """Asked for at the plan, released, followed; a crossed pair is found at the proof of order,
    kept with the run and put right; the log has it.
    """
    trainer = person("trainer")
    _released(trainer)
    page = person("technician", 1024, 768, touch=True)
    start_at(
        page,
        "Rescue launch 1",
        "Plug and lead, holes 5 and 7; distributor cap and rotor",
        "cap/look",
        LAUNCH,
    )
    expect(card(page)).to_contain_text("tracks of carbon")
    card(page).get_by_role("button", name="posts eroded or burnt").click()
    do_moved(page)
    assert step_now(page) == "rotor/advance"
    ahead(page, "cap/leads", LAUNCH)
    expect(card(page).locator(".tick-big")).to_have_count(6)
    ahead(page, "prove/order", LAUNCH)
    assert not faults(page, bright=True)
    _crossed(page)
    expect(card(page).locator("[data-kept]")).to_contain_text("Leads of 3 and 4 are crossed")
    do_ticks(page)
    ahead(page, "prove/sign", LAUNCH)
    do_ticks(page)
    page.wait_for_url(re.compile("/log/"))
    said = page.locator("body")
    expect(said).to_contain_text("Leads of 3 and 4 are crossed")
    expect(said).to_contain_text("posts eroded or burnt")


def _released(page: Page) -> None:
    page.goto("/engines/fendrake-50-marine-v8?c=5&c=7")
    besides(page, "distributor cap")
    besides(page, "rotor")
    expect(page.locator(".engine-plan .towers.worked")).to_have_count(1)
    page.get_by_role("button", name="Make the procedure").click()
    expect(page.locator("h1")).to_have_text(
        "Plug and lead, holes 5 and 7; distributor cap and rotor"
    )
    page.fill("#reason", "First edition with cap and rotor")
    page.get_by_role("button", name="Release edition 1").click()
    page.wait_for_url(re.compile("/editions/"))


def _crossed(page: Page) -> None:
    """Tap what is found, tower by tower; keep it with the run."""
    page.locator("a[data-ring]").tap()
    told = page.locator(".ring-next")
    for hole in ("1", "8", "3", "4", "6", "5", "7", "2"):
        before = told.inner_text()
        page.locator(f".ring-plan a[data-key='{hole}']").tap()
        expect(told).not_to_have_text(before)
    expect(page.locator(".ring-verdict")).to_contain_text("Leads of 3 and 4 are crossed")
    page.get_by_role("button", name="Keep this with the run").tap()
    page.locator("body.scripted").wait_for()


def do_ticks(page: Page) -> None:
    """Give every proof of the step on the screen and close it."""
    for tick in card(page).locator("[data-done] input[type=checkbox]").all():
        tick.check()
    do_moved(page)


def do_moved(page: Page) -> None:
    """Close the step on the screen, and wait for the next one or the log."""
    here = step_now(page)
    wind_on(page)
    page.locator("[data-confirm]:not(.gives)").click()
    expect(page.locator(f'.step-card[data-step="{here}"]')).to_be_hidden()


def at_the_engine(page: Page, what: str, pick: str) -> None:
    """Do something at the engine behind the stand-in lamp."""
    form = page.locator("form.acts", has_text=what)
    form.get_by_role("button", name=pick, exact=True).click()
    expect(page.locator(".note")).to_contain_text("lamp:")


def test_the_timing_of_the_flat_four_by_the_lamp(person: People) -> None:
    """Too early as found, turned back by what the bay says, read again, over the whole range."""
    engine = person("lead")
    engine.goto("/devices")
    page = person("technician", 820, 1180, touch=True)
    start_at(page, "Ground power set 4", "Timing", "time/mark", GROUND)
    expect(card(page)).to_contain_text("11.3 mm (0.44 in)")
    expect(card(page).locator("svg.pulley")).to_be_visible()
    ahead(page, "time/idle", GROUND)
    page.locator("details", has=page.locator("[data-take=lamp]")).evaluate("d => { d.open = true }")
    page.locator("[data-take=lamp]").check()
    idle = typed(page, "advance_idle")
    expect(idle).to_have_value("13.5")
    _write(page, "speed_idle")
    _write(page, "advance_idle")
    said = card(page).locator("[data-reading=advance_idle] [data-told]")
    expect(said).to_have_text(
        "As found 13.5°. Turn the body 3° to the right, with the rotor: 1.7 mm of its edge."
    )
    page.locator("[data-confirm]:not(.gives)").click()
    assert step_now(page) == "time/idle", "it is not closed on a timing that is out"
    at_the_engine(engine, "Body to the right", "3")
    expect(idle).to_have_value("7.5")
    _write(page, "advance_idle")
    expect(said).to_have_text("It is right: leave it.")
    do_moved(page)
    at_the_engine(engine, "Speed", "3400")
    expect(typed(page, "advance_total")).to_have_value("30")
    _write(page, "speed_total")
    _write(page, "advance_total")
    do_moved(page)
    _along_the_curve(page, engine)
    do_ticks(page)
    ahead(page, "prove/sign", GROUND)
    do_ticks(page)
    page.wait_for_url(re.compile("/log/"))
    log = page.locator("body")
    expect(log).to_contain_text("As found 13.5°")
    at_the_engine(engine, "Body to the left", "3")
    at_the_engine(engine, "Speed", "900")


def _write(page: Page, reading: str) -> None:
    """Write down what the lamp shows in a field."""
    _box(page, reading).get_by_role("button", name=re.compile("^Write")).first.click()


def _box(page: Page, reading: str) -> Locator:
    return card(page).locator(f"[data-reading={reading}]")


def _along_the_curve(page: Page, engine: Page) -> None:
    """Each point fills the field of its speed; back at idle the whole is told."""
    assert step_now(page) == "time/curve"
    for speed in ("1200", "1800", "2600", "3400"):
        at_the_engine(engine, "Speed", speed)
        expect(typed(page, f"advance_{speed}")).not_to_have_value("")
        _write(page, f"advance_{speed}")
        expect(_box(page, f"advance_{speed}").locator("[data-kept]")).to_be_visible()
    expect(page.locator("svg.advance-curve circle.read")).to_have_count(4)
    at_the_engine(engine, "Speed", "900")
    expect(typed(page, "advance_back")).to_have_value("7.5")
    _write(page, "advance_back")
    told = _box(page, "advance_back").locator("[data-told]")
    expect(told).to_have_text("The advance comes and returns as it should.")
    assert not faults(page, bright=True)
    do_moved(page)


def test_a_dial_is_added_and_a_weak_battery_says_what_next(person: People) -> None:
    """Typed at a phone; a value that is refused says at once what it means."""
    page = person("technician", 360, 740, touch=True)
    start_at(page, "Tow tractor 3", "Battery and charging", "battery/crank", {"meter": "4000"})
    write_reading(page, "volts_cranking", "9.1")
    told = _box(page, "volts_cranking").locator("[data-told]")
    expect(told).to_contain_text("Measure what the cables lose")
    write_reading(page, "volts_cranking", "10.4")
    expect(told).to_contain_text("The cables need no measuring")
    assert not faults(page, bright=True)
    do_step(page, {"volts_cranking": "10.4"})
    page = person("technician")
    start_at(page, "Ground power set 4", "Timing", "time/idle", GROUND)
    write_reading(page, "speed_idle", "900")
    write_reading(page, "advance_idle", "5 + 2,5")
    expect(_box(page, "advance_idle").locator("[data-kept]")).to_contain_text("7.5°")
