"""The trainer enters a figure, is caught, settles it, and sees procedure and tools follow."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import People
from tests.browser.hands import card, unit_in_bay

pytestmark = pytest.mark.browser
ENGINE = "/engines/corvane-20-turbo-four"
SHEET = f"{ENGINE}/figures"
JOB = f"{ENGINE}?c=1&work=coil&work=plug"
BIT = "six-lobe bit 5.5 mm, ¼ in"


def test_from_a_slip_to_a_changed_procedure_and_a_missing_socket(person: People) -> None:
    """One story, as a trainer lives it."""
    page = person("trainer")
    _enter_with_a_slip(page)
    _settle(page)
    _change_the_school(page)
    _lose_a_bit_and_get_it_back(page)


def _enter_with_a_slip(page: Page) -> None:
    page.goto(SHEET)
    row = page.locator("#plug-torque")
    row.locator("summary", has_text="State another source").click()
    form = row.locator("details[open] .figure-form")
    form.locator("input[name=value]").type("205 ft-lb", delay=15)
    expect(form.locator(".held")).to_contain_text("above what is plausible")
    form.locator("input[name=page]").fill("7")
    form.locator("select[name=source]").select_option("new")
    form.locator("summary", has_text="Another source").click()
    form.locator("input[name=document]").fill("Fleet note 31")
    form.locator("input[name=edition]").fill("issue 2")
    form.locator("button", has_text="Keep").click()
    expect(page.locator("#plug-torque .held")).to_contain_text("Held.")
    reading = page.locator("#plug-torque .held li", has_text="20.5 lbf·ft")
    expect(reading).to_contain_text("27.8 N·m")
    expect(reading).to_contain_text("divided by 10")
    reading.locator("button").click()
    expect(page.locator("#plug-torque")).to_contain_text("Fleet note 31, issue 2, p. 7")


def _settle(page: Page) -> None:
    expect(page.locator(".open-points")).to_contain_text("Plug torque: two sources disagree")
    first = page.locator("#plug-torque .one-figure").first
    first.locator("input[name=reason]").fill("the maker's own book")
    first.locator("button", has_text="Settle").click()
    row = page.locator("#plug-torque")
    expect(row).to_contain_text("Holds: the maker's own book")
    expect(row).to_contain_text("Kept beside, not used")
    expect(row.locator(".set-on")).to_contain_text("Set 27.5 N·m on the torque wrench")
    expect(page.locator(".open-points")).not_to_contain_text("Plug torque")


def _change_the_school(page: Page) -> None:
    page.goto(JOB)
    page.get_by_role("button", name="Make the procedure").click()
    page.wait_for_url(re.compile("/procedures/"))
    step = page.locator('[id="torque/plug/1"]')
    expect(step).to_contain_text("Set 27.5 N·m")
    expect(page.locator('[id="prepare/plug/1"]')).to_have_count(0)
    page.locator("summary", has_text="House rules, version").click()
    topic = page.locator(".topic-small", has_text="Thread compound")
    topic.locator("summary").click()
    topic.locator("select").select_option("always")
    topic.locator("input[name=reason]").fill("salt on the apron")
    topic.get_by_role("button", name="Keep").click()
    expect(page.locator('[id="prepare/plug/1"]')).to_have_count(1)
    expect(step).to_contain_text("27.5 × (1 − 30 %) for a lubricated thread = 19.25 N·m")
    expect(step).to_contain_text("Set 19 N·m")
    expect(page.locator("article")).to_contain_text("thread compound")


def _lose_a_bit_and_get_it_back(page: Page) -> None:
    page.goto("/crib")
    page.get_by_label(f"gone: {BIT}").check()
    _save(page, "lent to the tyre bay")
    page.goto(JOB)
    expect(page.locator(".to-get")).to_contain_text(f"get: {BIT}")
    page.goto("/crib")
    spare = page.locator("#sockets tr.spare").first
    values = {"size": "5.5 mm", "length": "28 mm", "depth": "8 mm", "outside": "13 mm"}
    spare.locator("select[name$='/drive']").select_option("1/4")
    spare.locator("select[name$='/shape']").select_option("six_lobe")
    for column, value in values.items():
        spare.locator(f"input[name$='/{column}']").fill(value)
    _save(page, "back again")
    page.goto(JOB)
    expect(page.locator("#moves")).to_be_visible()
    expect(page.locator(".to-get")).to_have_count(0)


def _save(page: Page, reason: str) -> None:
    version = page.locator("input[name=version]").first.input_value()
    page.fill("#reason", reason)
    page.get_by_role("button", name=re.compile("Save as version")).click()
    expect(page.locator("input[name=version]").first).not_to_have_value(version)


def test_cells_go_up_and_down_by_keyboard(person: People) -> None:
    """As on squared paper."""
    page = person("trainer")
    page.goto("/crib")
    column = page.locator("#extensions input[name$='/length']")
    column.nth(0).focus()
    page.keyboard.press("Enter")
    expect(column.nth(1)).to_be_focused()
    page.keyboard.press("ArrowDown")
    expect(column.nth(2)).to_be_focused()
    page.keyboard.press("ArrowUp")
    expect(column.nth(1)).to_be_focused()
    page.keyboard.press("Tab")
    expect(page.locator("#extensions input[name$='/outside']").nth(1)).to_be_focused()


def test_one_key_opens_the_sums_from_anywhere(person: People) -> None:
    """Works as typed; the key types an equals sign in a field; Escape gives the page back."""
    page = person("technician")
    sums = page.locator("#sums")
    for address in ("/crib", "/engines"):
        page.goto(address)
        page.keyboard.press("=")
        expect(sums).to_be_visible()
    expect(sums).to_contain_text("18 lbf·ft = 24.4 N·m")
    sums.locator("input[name=value]").fill("20 Nm")
    expect(sums.locator(".sum-result")).to_contain_text("14.8 lbf·ft")
    sums.get_by_role("link", name="When it is cool enough").click()
    expect(sums.locator(".cooling-curve")).to_be_visible()
    sums.locator("input[name=second]").fill("80")
    expect(sums.locator(".sum-result")).not_to_contain_text("41.4")
    sums.locator("input[name=second]").fill("90 °C")
    expect(sums.locator(".refusal")).to_contain_text("not cooled")
    page.keyboard.press("Escape")
    expect(sums).not_to_be_visible()


def test_what_is_typed_as_soon_as_a_field_comes_is_worked_out(person: People) -> None:
    """Also before the page listens to the form."""
    page = person("technician")
    page.goto("/sums")
    page.evaluate("""addEventListener("htmx:afterSwap", () => {
      const field = document.querySelector("[name=second]");
      field.value = "80";
      field.dispatchEvent(new Event("input", { bubbles: true })); }, { once: true })""")
    page.get_by_role("link", name="When it is cool enough").click()
    expect(page.locator("[name=second]")).to_have_value("80")
    expect(page.locator(".sum-result")).not_to_contain_text("41.4")


def test_a_field_taken_as_soon_as_it_comes_is_kept(person: People) -> None:
    """The first field has the keys when a sum opens, and does not take them back a moment later."""
    page = person("technician")
    page.goto("/sums")
    page.evaluate("""addEventListener("htmx:afterSwap", () =>
      setTimeout(() => document.querySelector("[name=second]").focus()), { once: true });
      addEventListener("htmx:afterSettle", () =>
      setTimeout(() => document.body.classList.add("settled"), 50), { once: true });""")
    page.get_by_role("link", name="When it is cool enough").click()
    page.locator("body.settled").wait_for()
    expect(page.locator("[name=second]")).to_be_focused()


def test_the_bay_shows_setting_section_and_roll(person: People) -> None:
    """At the torque step: the number, the rule, and how the tool reaches."""
    page = person("technician", 820, 1180)
    page.goto("/bay")
    unit_in_bay(page, "Belt loader 9").get_by_role("button").first.click()
    page.wait_for_url(re.compile("/bay/runs/"))
    page.goto(page.url.split("?")[0] + "?step=torque/plug/2")
    expect(card(page).locator(".big-number .v")).to_contain_text("27.5 N·m")
    expect(card(page).locator(".torque-rule")).to_be_visible()
    card(page).locator(".reach summary").click()
    section = card(page).locator(".well-section").first
    expect(section).to_be_visible()
    expect(section).to_contain_text("92 mm")
    expect(section).to_contain_text("bore 24 mm")
