"""What a technician's hands do, in a few words."""

import re

from playwright.sync_api import Locator, Page, expect

FLAGS = ["--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
         "--disable-background-networking", "--disable-component-update",
         "--disable-sync"]  # fmt: skip
TYPICAL = {"meter": "1234", "codes": "none", "volts": "12.6", "temperature": "21",
           "gap_found": "1.18", "gap_left": "1,05", "free_turns": "6",
           "torque": "17.5"}  # fmt: skip
SERIALS = {"Tug 14": "2231", "Tug 15": "2248", "Tug 21": "2390", "Belt loader 9": "4417",
           "Bowser 3": "DM42G-310"}  # fmt: skip


def start_run(page: Page, unit: str, words: str) -> str:
    """Start the procedure whose button says ``words`` on a unit; return the run's address."""
    page.goto("/bay")
    page.locator(".units > li", has_text=unit).get_by_role("button", name=words).click()
    page.wait_for_url(re.compile(r"/bay/runs/[0-9a-f-]{36}"))
    return page.url.split("?")[0]


def card(page: Page) -> Locator:
    """The step on the screen."""
    return page.locator(".step-card:not([hidden])")


def step_now(page: Page) -> str:
    """The key of the step on the screen."""
    return card(page).get_attribute("data-step") or ""


def typed(page: Page, key: str) -> Locator:
    """The field of a reading of the step on the screen."""
    return card(page).locator(f"[data-reading={key}] .reading-form input[name=value]")


def write_reading(page: Page, key: str, value: str) -> None:
    """Type one value and write it down."""
    typed(page, key).fill(value)
    card(page).locator(f"[data-reading={key}] .reading-form button").click()


def do_step(page: Page, values: dict[str, str] | None = None) -> None:
    """Give every reading and proof the step on the screen asks for, then close it."""
    serial = next(
        (s for u, s in SERIALS.items() if u in page.locator(".bay-unit").inner_text()), ""
    )
    wanted = {**TYPICAL, "serial": serial, **(values or {})}
    here = step_now(page)
    for box in card(page).locator("[data-reading]").all():
        key = box.get_attribute("data-reading") or ""
        if box.locator(".pick[name=value]").count():
            box.locator(".pick[name=value]").first.click()
        else:
            write_reading(page, key, wanted[key])
        expect(box.locator("[data-kept]")).to_be_visible()
    for tick in card(page).locator("[data-done] input[type=checkbox]").all():
        tick.check()
    page.locator("[data-confirm]").click()
    expect(page.locator(f'.step-card[data-step="{here}"]')).to_be_hidden()


def follow_until(page: Page, key: str, values: dict[str, str] | None = None) -> None:
    """Follow the run until the step ``key`` is on the screen."""
    for _ in range(200):
        if step_now(page) == key:
            return
        do_step(page, values)
    raise AssertionError(f"never reached {key}")
