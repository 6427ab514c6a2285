"""What a technician's hands do, in a few words."""

import re

from playwright.sync_api import Page, expect

FLAGS = ["--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
         "--disable-background-networking", "--disable-component-update",
         "--disable-sync"]  # fmt: skip
TYPICAL = {"meter": "1234", "codes": "none", "volts": "12.6", "temperature": "21",
           "gap_found": "1.18", "gap_left": "1,05", "free_turns": "6"}  # fmt: skip


def start_run(page: Page, unit: str, words: str) -> str:
    """Start the procedure whose button says ``words`` on a unit; return the run's address."""
    page.goto("/bay")
    page.locator(".units > li", has_text=unit).get_by_role("button", name=words).click()
    page.wait_for_url(re.compile(r"/bay/runs/[0-9a-f-]{36}"))
    return page.url.split("?")[0]


def step_now(page: Page) -> str:
    """The key of the step on the screen."""
    return page.locator("[data-done] input[name=step]").input_value()


def write_reading(page: Page, key: str, value: str) -> None:
    """Type one value and write it down."""
    page.fill(f"#in-{key}", value)
    page.locator(f"form:has(#in-{key}) button").click()
    page.wait_for_load_state()


def do_step(page: Page, values: dict[str, str] | None = None) -> None:
    """Give every reading and proof the step on the screen asks for, then close it."""
    wanted = {**TYPICAL, **(values or {})}
    for field in page.locator("form.reading-form").all_inner_texts():
        assert field
    for key in page.eval_on_selector_all(".reading-form input[name=reading]",
                                         "all => all.map(i => i.value)"):  # fmt: skip
        if page.locator(f"#in-{key}").count():
            write_reading(page, key, wanted[key])
        else:
            page.locator(f"form:has(input[value={key}]) .pick").first.click()
            page.wait_for_load_state()
    here = step_now(page)
    for box in page.locator("[data-done] input[type=checkbox]").all():
        box.check()
    page.locator("[data-done] .btn-done").click()
    expect(page.locator("[data-done] input[name=step]")).not_to_have_value(here)


def follow_until(page: Page, key: str, values: dict[str, str] | None = None) -> None:
    """Follow the run until the step ``key`` is on the screen."""
    for _ in range(200):
        if step_now(page) == key:
            return
        do_step(page, values)
    raise AssertionError(f"never reached {key}")
