"""Whole runs at the screen, from the plate to the signature: by keys alone, by touch on a phone."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import People
from tests.browser.hands import (
    NOT_ASKED,
    SERIALS,
    TYPICAL,
    card,
    do_step,
    own_clock,
    press_confirm,
    start_run,
    step_now,
    typed,
)
from tests.browser.test_bay import one_hole

pytestmark = pytest.mark.browser


def by_keys(page: Page, unit: str) -> None:
    """One step with nothing but the keyboard: values typed, Enter, then the foot switch."""
    here = step_now(page)
    wanted = {**TYPICAL, "serial": SERIALS[unit], "torque": "17.5"}
    for box in card(page).locator("[data-reading]:not([hidden])").all():
        key = box.get_attribute("data-reading") or ""
        if not box.locator("[data-kept]").is_visible() and key not in (
            "next_due",
            "next_meter",
            "recheck",
            *NOT_ASKED,
        ):
            field = (
                box.locator(".pick[name=value]").first if key == "condition" else typed(page, key)
            )
            field.focus()
            if key != "condition":
                page.keyboard.type(wanted[key])
            page.keyboard.press("Enter")
            expect(box.locator("[data-kept]")).to_be_visible()
    for _ in range(8):
        if step_now(page) != here or "/log/" in page.url:
            return
        press_confirm(page)
    expect(page.locator(f'.step-card[data-step="{here}"]')).to_be_hidden()


def test_a_whole_run_by_keyboard_alone(person: People) -> None:
    """From the plate to the signature, never touching a pointer."""
    page = person("technician")
    own_clock(page)
    start_run(page, "Tug 15", one_hole(person("trainer"), 2))
    for _ in range(120):
        if step_now(page) == "prove/sign":
            break
        by_keys(page, "Tug 15")
    card(page).locator("h1").evaluate("e => e.closest('section').focus()")
    press_confirm(page, "Space")
    press_confirm(page, "Space")
    page.wait_for_url(re.compile("/log/"))
    expect(page.locator(".row-facts")).to_contain_text("by Tam Okely")


def test_a_whole_run_by_touch_on_a_phone(person: People) -> None:
    """At 360 pixels, nothing typed on a step that can be tapped, nothing too small, no overflow."""
    page = person("technician", 360, 740, touch=True)
    own_clock(page)
    start_run(page, "Tug 21", one_hole(person("trainer"), 4))
    for _ in range(120):
        if step_now(page) == "prove/sign":
            break
        assert page.evaluate("document.documentElement.scrollWidth") <= 360, step_now(page)
        if step_now(page).startswith("torque/plug/"):
            scale = card(page).locator("svg.torque-rule")
            box = scale.bounding_box()
            assert box is not None
            scale.tap(position={"x": box["width"] / 2, "y": box["height"] / 2})
            field = typed(page, "torque")
            assert 15 <= float(field.input_value()) <= 20, "the middle of the rule is in the window"
            do_step(page, {"torque": field.input_value()})
        else:
            do_step(page)
    for box in card(page).locator("[data-done] input[type=checkbox]").all():
        box.check()
    page.locator("[data-confirm]").tap()
    page.wait_for_url(re.compile("/log/"))
