"""The trainer asks what if, takes the engine apart on the screen, and changes a house rule."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import People

pytestmark = pytest.mark.browser
REAR = "/engines/marlet-34-v6?c=3&c=5&work=coil&work=plug"


def test_choose_force_a_way_and_take_it_back(person: People) -> None:
    """The plan and the difference redraw at once."""
    page = person("trainer")
    page.goto(REAR)
    expect(page.locator("#moves li[data-part=throttle-body]")).to_contain_text("swing aside")
    page.locator("#moves li[data-part=throttle-body] .if").click()
    expect(page.locator(".what-ifs")).to_contain_text("Throttle body not swung aside")
    expect(page.locator("#moves li[data-part=throttle-body]")).to_contain_text("off;")
    expect(page.locator(".difference")).to_contain_text("more than the best")
    page.locator(".what-ifs a").click()
    expect(page.locator(".what-ifs")).to_have_count(0)
    expect(page.locator("#moves li[data-part=throttle-body]")).to_contain_text("swing aside")


def test_a_part_that_stays_can_be_forced_out(person: People) -> None:
    """And taken back."""
    page = person("trainer")
    page.goto("/engines/marlet-34-v6?c=2&work=coil&work=plug")
    page.get_by_text("parts stay").click()
    page.get_by_role("link", name="remove Rear stays").click()
    expect(page.locator("#moves li[data-part=rear-stays]")).to_contain_text("asked for")
    expect(page.locator(".what-ifs")).to_contain_text("Rear stays taken off in any case")
    expect(page.locator(".difference")).to_contain_text("more than the best")


def test_an_alternative_becomes_the_plan_and_a_dead_end_is_explained(person: People) -> None:
    """Clicked, it is drawn; forbid everything, and the part that blocks is named."""
    page = person("trainer")
    page.goto("/engines/dunmarl-42-six?c=5&work=lead&work=plug")
    page.get_by_role("link", name="take the intake manifold off").click()
    expect(page.locator("#moves li[data-part=manifold]")).to_be_visible()
    page.locator("#moves li[data-part=manifold] .if").click()
    expect(page.get_by_role("alert")).to_contain_text("Intake manifold")
    page.goto("/engines/dunmarl-42-six?c=5&work=lead&work=plug")
    page.get_by_role("link", name="What if nothing is done by feel").click()
    expect(page.locator("#moves li[data-part=manifold]")).to_be_visible()


def test_the_scrubber_takes_it_apart_and_rebuilds_it(person: People) -> None:
    """By keys, by the slider and by a click on the ribbon."""
    page = person("trainer")
    page.goto(REAR)
    cover = page.locator("svg g.part[data-part=sound-cover]")
    for _ in range(10):
        page.keyboard.press("]")
    expect(page.locator("#moment")).to_contain_text("Step 10 of")
    expect(cover).to_have_class(re.compile("gone"))
    page.keyboard.press("[")
    expect(page.locator("#moment")).to_contain_text("Step 9 of")
    slider = page.locator("#scrub")
    slider.focus()
    page.keyboard.press("End")
    expect(cover).not_to_have_class(re.compile("gone"))
    expect(slider).to_have_attribute("aria-valuetext", re.compile("sign"))
    torque = page.locator("svg.ribbon g", has_text="Torque plug 5")
    torque.locator("rect").click()
    expect(page.locator("#moment")).to_contain_text("Torque plug 5")
    expect(page.locator("[data-stage-of='5']")).to_have_text("torqued")
    expect(page.locator("svg g.part[data-part=plenum]")).to_have_class(re.compile("gone"))


def test_a_house_rule_shows_what_it_changes_and_then_changes_it(person: People) -> None:
    """Before saving in the panel, after saving in the plan; a departure is printed."""
    page = person("trainer")
    page.goto("/rules")
    expect(page.locator(".refused")).to_contain_text("No one can check it afterwards")
    page.locator("#procedure").select_option(
        label="Plug and coil, holes 2, 4 and 6, Marlet 3.4 vee six, across"
    )
    page.check("input[name=thread_cleaning][value=every_hole]")
    expect(page.locator("#changes")).to_contain_text("Chase the thread of hole 4")
    page.fill("input[name=risk_high]", "12")
    page.fill("#reason", "Salt air on the apron")
    page.get_by_role("button", name="Save as version").click()
    expect(page.locator(".preview")).to_contain_text("Salt air on the apron")
    page.goto("/engines/marlet-34-v6?c=2")
    page.get_by_text("steps as a list").click()
    expect(page.locator(".answer")).to_contain_text("Chase the thread of hole 2")

    page.get_by_role("button", name="Make the procedure").click()
    page.locator(".departures > summary").click()
    topic = page.locator(".topic-small", has_text="Cleaning threads")
    topic.locator("summary").click()
    topic.locator("select").select_option(label="Only when a plug will not start by hand")
    topic.locator("input[name=reason]").fill("New head, clean threads")
    topic.get_by_role("button").click()
    expect(page.locator("article .note").first).to_contain_text("New head, clean threads")
    expect(page.locator("article")).not_to_contain_text("Chase the thread")

    page.goto("/rules")
    expect(page.locator("input[name=risk_high]")).to_have_value("12")
    page.fill("input[name=risk_high]", "8")
    page.check("input[name=thread_cleaning][value=when_needed]")
    page.fill("#reason", "Back to the default")
    page.get_by_role("button", name="Save as version").click()
    expect(page.locator(".preview")).to_contain_text("Back to the default")
