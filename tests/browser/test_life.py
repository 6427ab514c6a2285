"""While the rear bank is open: plugs now, and a procedure; what is due, laid out, and begun."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import People
from tests.browser.hands import faults

pytestmark = pytest.mark.browser
COIL_5 = "/engines/marlet-34-v6?c=5&work=coil&variant=late"


def test_the_rear_bank_is_open_so_its_plugs_are_done_now(person: People) -> None:
    """Chosen for a unit, added with a click, made a procedure; the draft takes a companion too."""
    page = person("trainer")
    page.goto(COIL_5)
    along = page.locator("#along")
    along.get_by_label("For").select_option(label="Tug 21")
    expect(along.get_by_label("meter")).to_have_value("2450 h")
    rear = along.locator("li", has_text="Plugs of the rear bank:")
    expect(rear).to_contain_text(re.compile(r"\d+ min and 36 € here; later \d+ min"))
    along.get_by_text("When things were fitted").click()
    along.get_by_label("Fitted at").fill("plug=900 h")
    along.get_by_label("Fitted at").press("Tab")
    expect(rear).to_contain_text("past its interval")
    rear.get_by_text("Sums").click()
    expect(rear.get_by_text("Now:")).to_be_visible()
    assert not faults(page)
    rear.get_by_role("link", name=re.compile("Add")).click()
    expect(page.locator("h1")).to_have_text("Plug, holes 1, 3 and 5; coil, hole 5")
    page.get_by_role("button", name="Make the procedure").click()
    expect(page.locator("h1")).to_have_text("Plug, holes 1, 3 and 5; coil, hole 5")
    page.get_by_text("While you are there").first.click()
    filters = page.locator("#along li", has_text="Air filter:")
    filters.get_by_role("button", name=re.compile("Add")).click()
    expect(page.locator("h1")).to_have_text("Plug, holes 1, 3 and 5; coil, hole 5; air filter")
    expect(page.get_by_role("heading", name="Wipe the housing out")).to_be_visible()


def test_what_is_due_is_laid_out_over_the_week_and_begun(person: People) -> None:
    """From the board to the week, moved by hand until it clashes, and to the procedure."""
    page = person("lead")
    page.goto("/due")
    line = page.locator(".due-lines li", has_text="Re-check").first
    expect(line).to_contain_text("edition 1")
    page.get_by_role("link", name="A week laid out over bays and people").click()
    page.goto("/week?week=2026-W51")
    page.get_by_role("button", name="Lay it out").click()
    expect(page.locator(".week-sum")).to_contain_text("2 jobs laid out. Nothing is late.")
    expect(page.locator(".week-bars .job")).to_have_count(2)
    assert not faults(page)
    starts = {}
    for unit in ("Tug 15", "Tug 21"):
        row = page.locator(".week-table tr", has_text=unit)
        row.get_by_text("Move").click()
        row.get_by_label("At").select_option(label="10:00")
        row.get_by_label("Bay").select_option(label="Bay 3")
        row.get_by_role("button", name="Put it there").click()
        row = page.locator(".week-table tr", has_text=unit)
        expect(row).to_contain_text("10:00")
        starts[unit] = row.inner_text()
    clash = page.get_by_role("alert")
    expect(clash).to_contain_text("are in Bay 3 at once")
    expect(page.locator(".week-bars .clash")).to_have_count(2)
    row = page.locator(".week-table tr", has_text="Tug 21")
    row.get_by_role("link", name=re.compile("Plug and coil")).click()
    expect(page.locator("h1")).to_contain_text("Plug and coil, holes 2, 4 and 6")


def test_the_life_of_a_unit_is_looked_at_by_meter_and_by_date(person: People) -> None:
    """A run in it is a link; on a phone it scrolls in its frame, not the page."""
    page = person("technician", 360, 740, touch=True)
    page.goto("/units/tug-21")
    expect(page.locator("svg.unit-life")).to_be_visible()
    assert page.evaluate("() => document.documentElement.scrollWidth") <= 360
    page.get_by_role("link", name="By date").click()
    expect(page.get_by_role("link", name="By its meter")).to_be_visible()
    page.goto("/due?unit=tug-21")
    assert page.evaluate("() => document.documentElement.scrollWidth") <= 360
