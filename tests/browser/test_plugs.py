"""Plugs are read by touch: signs, the verdict, what follows; with and without the link."""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import People
from tests.browser.hands import card, do_step, faults, own_clock, start_at, step_now, write_reading
from tests.browser.test_bay import FRONT, entries


def face(page: Page, words: str) -> Locator:
    """What is tapped for a sign of the step in hand."""
    return card(page).get_by_role("button", name=words, exact=True)


def read(page: Page, *signs: str) -> None:
    """Tap signs at the plug in hand, with its gap, and close it."""
    for sign in signs:
        if not face(page, sign).is_visible():
            card(page).get_by_text("More to look for").tap()
        face(page, sign).tap()
        expect(face(page, sign)).to_have_attribute("aria-pressed", "true")
    write_reading(page, "gap_found", "1.05")
    page.clock.fast_forward(700)
    here = step_now(page)
    page.locator("[data-confirm]:not(.gives)").tap()
    expect(page.locator(f'.step-card[data-step="{here}"]')).to_be_hidden()


@pytest.mark.usefixtures("as_loaded")
def test_signs_by_touch_become_a_verdict_and_a_follow_up(person: People) -> None:
    """On a phone: several signs at one hole, the others beside it, the verdict, taken up."""
    page = person("technician", 360, 740, touch=True)
    start_at(page, "Tug 14", FRONT, "read/plug/2")
    own_clock(page)
    page.goto(page.url)
    face(page, "light tan to grey, dry").tap()
    face(page, "edges rounded").dblclick()
    expect(face(page, "edges rounded")).to_have_attribute("aria-pressed", "true")
    face(page, "light tan to grey, dry").tap()
    read(page, "wet, black, oily", "oil in the well")
    expect(card(page).locator("[data-other]").first.locator(".looks-there svg")).to_have_count(2)
    expect(page.locator("#sent")).to_have_text("All sent")
    said = [e["entry"]["value"] for e in entries(page) if e["entry"].get("reading") == "condition"]  # type: ignore[attr-defined]
    assert said == ["tan-dry", "edges-rounded", "tan-dry", "wet-oily", "wet-oily,well-oil"], (
        "what is in order stands alone"
    )
    verdict = page.locator("#verdict")
    expect(verdict).to_be_hidden()
    read(page, "light tan to grey, dry")
    read(page, "light tan to grey, dry")
    while step_now(page).startswith("read/"):
        do_step(page)
    expect(verdict).to_contain_text("Oil past a ring or a guide (hole 2)")
    expect(verdict).to_contain_text("Oil gets into this well (hole 2)")
    assert not faults(page, bright=True)
    well = verdict.locator(".verdict", has_text="Oil gets into this well")
    well.get_by_text("Why").tap()
    expect(well).to_contain_text("oil in the well at 2")
    well.get_by_role("button", name="Take it up").tap()
    expect(well).to_contain_text("Taken up by")
    expect(page.locator("#parts")).to_contain_text("cover gasket")
    rings = verdict.locator(".verdict", has_text="Oil past a ring")
    rings.get_by_text("I see it otherwise").tap()
    rings.get_by_label("What you see otherwise").fill("spilt while filling")
    rings.get_by_role("button", name="Say so").tap()
    expect(rings).to_contain_text("Not seen so by Tam Okely: spilt while filling")


@pytest.mark.keeps
def test_without_the_link_the_signs_are_kept_and_the_verdict_comes_with_it(person: People) -> None:
    """Nothing is lost, and what it waits for is said."""
    person.expected.append("ERR_INTERNET_DISCONNECTED")
    page = person("technician", 820, 1180, touch=True)
    start_at(page, "Tug 14", FRONT, "read/plug/6")
    own_clock(page)
    page.goto(page.url)
    expect(page.locator("#kept")).to_be_visible()
    page.context.set_offline(True)
    read(page, "track down the insulator")
    while step_now(page).startswith("read/"):
        do_step(page)
    verdict = page.locator("#verdict")
    expect(verdict).to_contain_text("comes when the link is back")
    page.context.set_offline(False)
    page.clock.run_for(20_000)
    expect(page.locator("#sent")).to_have_text("All sent")
    page.clock.run_for(10_000)
    expect(verdict).to_contain_text("Flash-over: the spark goes down the outside (hole 6)")


def test_a_desk_says_what_a_set_tells_while_one_taps(person: People) -> None:
    """A face tapped is put in at the hole one was in, and taken out when tapped again."""
    page = person("trainer")
    page.goto("/engines/marlet-34-v6/plugs")
    page.locator("[name=hole-5]").click()
    page.locator("[data-sign=insulator-track]").click()
    told = page.locator("#plugs-told")
    expect(told).to_contain_text("Flash-over")
    page.locator("[data-sign=wet-fuel]").dblclick()
    expect(page.locator("[name=hole-5]")).to_have_value("insulator-track, wet-fuel")
    page.locator("[data-sign=insulator-track]").click()
    expect(told).to_contain_text("Coil weak or dead")
    expect(told).not_to_contain_text("Flash-over")
    page.locator("[name=hole-5]").fill("blster")
    expect(told).to_contain_text("did you mean blister")
    assert not faults(page)


@pytest.mark.usefixtures("as_loaded")
def test_a_fault_is_found_by_what_if_at_the_desk(person: People) -> None:
    """From a unit to its tree; a test struck out draws it anew; it reads as a list too."""
    page = person("trainer")
    page.goto("/units/tug-14")
    page.get_by_role("link", name="Find a fault").click()
    page.get_by_label("Codes read").fill("P0305")
    page.get_by_label("in the wet").check()
    told = page.locator("#fault-told")
    expect(told).to_contain_text("Boot of 5, flash-over")
    expect(told).to_contain_text("Look at boot and insulator")
    page.wait_for_load_state("networkidle")
    before = told.locator("dd").first.inner_text()
    page.get_by_text("The same as a list, with cautions and what if").click()
    first = told.locator(".fault-node").first
    expect(first).to_contain_text("Look at boot and insulator of 5")
    first.get_by_role("link", name=re.compile("what if not.*Look at boot", re.DOTALL)).click()
    expect(told).to_contain_text("without looking at the boot")
    assert int(told.locator("dd").first.inner_text().split()[0]) >= int(before.split()[0])
    told.get_by_role("link", name="take back").click()
    expect(told.locator("dd").first).to_have_text(before)
    expect(page.get_by_label("in the wet")).to_be_checked()
    page.get_by_label("Codes read").fill("P0309")
    expect(told).to_contain_text("the engine has cylinders 1, 2, 3, 4, 5, 6")
    expect(page.get_by_label("Codes read")).to_have_value("P0309")
    assert not faults(page)
