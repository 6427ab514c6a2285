"""The whole story: from engine facts to a signed run, as its people live it."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import People
from tests.browser.hands import (
    ahead,
    card,
    do_step,
    follow_until,
    press_confirm,
    start_run,
    step_now,
    write_reading,
)

pytestmark = pytest.mark.browser


def choose(page: Page, hole: str) -> None:
    """Click a hole on the plan and wait until the answer shows it."""
    page.locator(f".engine-plan a[data-key='{hole}']").click()
    expect(page.locator(f".engine-plan a[data-key='{hole}']")).to_have_attribute(
        "aria-pressed", "true"
    )


def parts(page: Page) -> list[str]:
    """The parts listed as moving."""
    return page.eval_on_selector_all("#moves li", "all => all.map(li => li.dataset.part)")


def test_from_engine_facts_to_a_signed_run(person: People) -> None:
    """Trainer, technician, lead, log."""
    trainer = person("trainer")
    _choose_the_job(trainer)
    _reword_and_release(trainer)
    technician = person("technician", 820, 1180, touch=True)
    run = _follow_with_one_torque_too_high(technician)
    lead = person("lead")
    _accept_the_deviation(lead, run)
    technician.goto(run)
    _sign(technician)
    technician.wait_for_url(re.compile("/log/"))
    _read_the_log(technician, lead)


def _choose_the_job(page: Page) -> None:
    """The plenum only when the rear bank is asked for; shared parts once."""
    page.goto("/engines")
    page.locator(".engine-list a", has_text="Marlet 3.4 vee six").click()
    choose(page, "2")
    assert parts(page) == ["sound-cover"]
    choose(page, "5")
    both = parts(page)
    assert both[-1] == "plenum"
    assert both.count("sound-cover") == 1
    expect(page.locator("#moves li[data-part=plenum]")).to_contain_text("over plug 5")
    expect(page.locator(".sums")).to_contain_text("proven")
    expect(page.locator("svg.ribbon")).to_be_visible()
    assert "c=2" in page.url
    assert "c=5" in page.url


def _reword_and_release(page: Page) -> None:
    """Wording, a note, edition 1."""
    page.get_by_role("button", name="Make the procedure").click()
    expect(page.locator("h1")).to_have_text("Plug and coil, holes 2 and 5")
    page.get_by_label("Step by step: Lift off the intake plenum").click()
    step = page.locator("li[id='remove/plenum']")
    expect(step).to_contain_text("two persons lift")
    step.locator(".edit-step > summary").click()
    step.locator("input[name=text]").first.fill("Lift the plenum straight up, two of you")
    step.locator("textarea[name=note]").fill("Rest it on the bench mat")
    step.get_by_role("button", name="Keep the step").click()
    expect(page.locator("li[id='remove/plenum'] h3")).to_contain_text("straight up, two of you")
    page.fill("#reason", "First edition for the rear bank")
    page.get_by_role("button", name="Release edition 1").click()
    expect(page.locator(".row-facts")).to_contain_text("First edition for the rear bank")
    expect(page.get_by_text("Rest it on the bench mat").first).to_be_visible()


def _follow_with_one_torque_too_high(page: Page) -> str:
    """Refused, recorded as a deviation, and then the run cannot be signed; the run's address."""
    run = start_run(page, "Tug 14", "Plug and coil, holes 2 and 5")
    do_step(page)
    ahead(page, "torque/plug/5")
    write_reading(page, "torque", "31")
    told = card(page).get_by_role("alert")
    expect(told).to_contain_text("31 N·m is over 20 N·m")
    expect(card(page).locator("h1")).to_have_text("Torque plug 5")
    page.locator("[data-confirm]").click()
    expect(told).to_contain_text("31 N·m is over 20 N·m")
    card(page).get_by_role("button", name="Tool clicked late").click()
    expect(card(page).locator("[data-kept]")).to_contain_text("the lead has yet to accept")
    page.locator("[data-confirm]").click()
    ahead(page, "prove/sign")
    _sign(page)
    expect(card(page).get_by_role("alert")).to_contain_text("for a lead to accept: 1")
    return run


def _sign(page: Page) -> None:
    for box in card(page).locator("[data-done] input[type=checkbox]").all():
        box.check()
    page.locator("[data-confirm]").click()


def _accept_the_deviation(page: Page, run: str) -> None:
    """From the list of runs that need a hand."""
    page.goto("/bay")
    page.locator(f".runs a[href$='{run.split('/')[-1]}']").click()
    expect(page.locator("#open")).to_contain_text("Torque plug 5")
    page.get_by_role("button", name="Accept").click()
    expect(page.locator("#open")).to_be_hidden()
    expect(page.locator("#sent")).to_have_text("All sent")


def _read_the_log(technician: Page, lead: Page) -> None:
    """Every reading, the deviation, who accepted it; newest first in the list."""
    deviations = technician.locator("#deviations")
    expect(deviations).to_contain_text("31 N·m")
    expect(deviations).to_contain_text("Tool clicked late")
    expect(deviations).to_contain_text("Berit Vance,")
    row = technician.locator(".tray-table tbody tr", has_text="1.05")
    expect(row).to_have_count(2)
    # The lead's own page of the run goes to the log by itself once it is signed.
    lead.wait_for_url(re.compile("/log/"))
    lead.goto("/log")
    expect(lead.locator("tbody tr").first).to_contain_text("Tug 14")


def test_the_plan_works_by_keyboard_alone(person: People) -> None:
    """Digits choose, x lets go, a takes all, p makes the procedure."""
    page = person("trainer")
    page.goto("/engines/marlet-34-v6")
    page.keyboard.press("3")
    expect(page.locator("h1")).to_have_text("Plug and coil, hole 3")
    page.keyboard.press("3")
    expect(page.locator("h1")).to_have_text("Which holes?")
    page.keyboard.press("a")
    expect(page.locator("h1")).to_have_text("Plug and coil, holes 1, 2, 3, 4, 5 and 6")
    page.keyboard.press("x")
    page.keyboard.press("4")
    expect(page.locator("h1")).to_have_text("Plug and coil, hole 4")
    page.go_back()
    expect(page.locator("h1")).to_have_text("Which holes?")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()


def test_pointing_at_a_part_marks_it_in_list_and_plan(person: People) -> None:
    """Hover or focus says which outline the words mean."""
    page = person("trainer")
    page.goto("/engines/marlet-34-v6?c=5&work=coil&work=plug")
    page.locator("#moves li[data-part=plenum]").focus()
    expect(page.locator("svg g.part[data-part=plenum]")).to_have_class(re.compile("pointed"))


def test_the_bay_by_keyboard_on_a_phone(person: People) -> None:
    """Space ticks and closes; a step left out asks for a reason."""
    page = person("technician", 360, 740, touch=True)
    start_run(page, "Tug 15", "Plug and coil, holes 2, 4 and 6")
    assert page.evaluate("document.documentElement.scrollWidth") <= 360
    write_reading(page, "serial", "2248")
    write_reading(page, "meter", "19000 h")
    card(page).locator("h1").click()
    press_confirm(page, "Space")
    press_confirm(page, "Space")
    follow_until(page, "ready/codes")
    card(page).get_by_text("Cannot do this").click()
    card(page).get_by_role("button", name="Tool is not here").click()
    expect(card(page).locator("h1")).to_contain_text("Switch off")
    expect(page.locator("#open")).to_contain_text("Tool is not here")
    small = page.eval_on_selector_all(
        "main button:not(.plain), main a.btn-big, main .tick-big, .bay-foot button",
        "all => all.filter(e => e.offsetHeight && e.offsetHeight < 56).map(e => e.outerHTML)",
    )
    assert small == []
    for opened in card(page).locator(".not-so summary").all():
        opened.click()
    assert page.evaluate("document.documentElement.scrollWidth") <= 360, "nor with lists open"
    here = step_now(page)
    draw_finger(page, 300, 100)
    ahead_of_it = step_now(page)
    assert ahead_of_it != here
    draw_finger(page, 100, 300)
    assert step_now(page) == here
    draw_finger(page, 200, 160)
    assert step_now(page) == here, "too short to mean it"
    do_step(page)


def draw_finger(page: Page, start: int, end: int) -> None:
    """Draw a finger across the screen."""
    page.evaluate(
        """([start, end]) => {
          const at = (x) => new Touch({ identifier: 1, target: document.body, clientX: x,
                                        clientY: 300 });
          const tell = (name, on, x) => document.body.dispatchEvent(new TouchEvent(name, {
            bubbles: true, touches: on ? [at(x)] : [], changedTouches: [at(x)] }));
          tell("touchstart", true, start);
          tell("touchend", false, end);
        }""",
        [start, end],
    )
