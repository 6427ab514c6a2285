"""What a technician's hands do, in a few words."""

import re
from pathlib import Path
from weakref import WeakSet

from playwright.sync_api import Locator, Page, expect

from tests.browser.behind import begun, write_until

# Debian's Chromium without its desktop: the same pages at a third of the processor's time. Its
# desktop draws a window, with tabs and menus nobody sees, for each page.
SHELL, DESKTOP = Path("/usr/bin/chromium-headless-shell"), Path("/usr/bin/chromium")
CHROMIUM = SHELL if SHELL.exists() else DESKTOP
FLAGS = [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
# A little more than what closes steps rests after each.
REST_MS = 650
TYPICAL = {
    "meter": "19000",
    "codes": "none",
    "volts": "12.6",
    "temperature": "21",
    "gap_found": "1.18",
    "gap_left": "1,05",
    "free_turns": "6",
    "torque": "17.5",
    "static_again": "7.5",
    "dwell": "50",
}
# Kept where somebody measures it; nobody has to.
NOT_ASKED = ("gap_supplied",)
SERIALS = {
    "Tug 14": "2231",
    "Tug 15": "2248",
    "Tug 21": "2390",
    "Belt loader 9": "4417",
    "Bowser 3": "DM42G-310",
    "Pump 1": "P-100",
    "Rescue launch 1": "FD-208",
    "Ground power set 4": "1120",
    "Tow tractor 3": "TR-6612",
}


def unit_in_bay(page: Page, unit: str) -> Locator:
    """A unit of the bay's list, opened, with its jobs."""
    found = page.locator(".units > li", has_text=unit).first
    opened = found.locator("details")
    if opened.get_attribute("open") is None:
        found.locator("summary").click()
    return opened


def start_run(page: Page, unit: str, words: str, listens: bool = True) -> str:
    """Start the procedure whose button says ``words`` on a unit; return the run's address."""
    page.goto("/bay")
    unit_in_bay(page, unit).get_by_role("button", name=words).first.click()
    on_a_run(page, listens)
    return page.url.split("?")[0]


def start_at(
    page: Page, unit: str, words: str, key: str, values: dict[str, str] | None = None
) -> str:
    """A run whose step ``key`` is on the screen, all before it closed; the run's address."""
    run = begun(page, unit, words)
    write_until(page, run, key, {**TYPICAL, "serial": SERIALS[unit], **(values or {})})
    page.goto(run)
    page.locator("body.scripted").wait_for()
    expect(page.locator(f'.step-card[data-step="{key}"]')).to_be_visible()
    return run


def on_a_run(page: Page, listens: bool = True) -> None:
    """Wait for the run, started all the same where another goes on on the unit.

    Until its cards have come a page works by plain forms; ``listens`` waits for them.
    """
    page.wait_for_url(re.compile(r"/bay/(runs|again)"))
    again = page.get_by_role("button", name="Start another run all the same")
    if again.count():
        again.click()
    page.wait_for_url(re.compile(r"/bay/runs/[0-9a-f-]{36}"))
    if listens:
        page.locator("body.scripted").wait_for()


def card(page: Page) -> Locator:
    """The step on the screen."""
    return page.locator(".step-card")


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


def own_clock(page: Page) -> None:
    """Let the page go by a clock that the tester winds on over each rest."""
    page.clock.install()
    _wound.add(page)


_wound: WeakSet[Page] = WeakSet()


def wind_on(page: Page) -> None:
    """Let the rest after a step be over, where the page goes by a clock of ours."""
    if page in _wound:
        page.clock.fast_forward(REST_MS)


def do_step(page: Page, values: dict[str, str] | None = None) -> None:
    """Give every reading and proof the step on the screen asks for, then close it."""
    wanted = {**TYPICAL, "serial": serial_of(page), **(values or {})}
    here = step_now(page)
    for box in card(page).locator("[data-reading]:not([hidden])").all():
        key = box.get_attribute("data-reading") or ""
        if key in NOT_ASKED:
            continue
        if box.locator(".pick[name=value]").count():
            box.locator(".pick[name=value]").first.click()
        else:
            write_reading(page, key, wanted[key])
        expect(box.locator("[data-kept]")).to_be_visible()
    for tick in card(page).locator("[data-done] input[type=checkbox]").all():
        tick.check()
    wind_on(page)
    page.locator("[data-confirm]:not(.gives)").click()
    expect(page.locator(f'.step-card[data-step="{here}"]')).to_be_hidden()


def press_confirm(page: Page, key: str = "PageDown") -> None:
    """Press a key that does what the large button says, once it can be pressed."""
    wind_on(page)
    expect(page.locator("[data-confirm]")).to_be_enabled()
    page.keyboard.press(key)


def ahead(page: Page, key: str, values: dict[str, str] | None = None) -> None:
    """Bring the run to the step ``key`` without the screen, and show it.

    Meanwhile the page is gone: it would draw itself anew at each of a hundred entries.
    """
    expect(page.locator("#sent")).to_have_text("All sent")
    run, serial = page.url.split("?")[0], serial_of(page)
    page.goto("about:blank")
    write_until(page, run, key, {**TYPICAL, "serial": serial, **(values or {})})
    page.goto(run)
    expect(page.locator(f'.step-card[data-step="{key}"]')).to_be_visible()


def serial_of(page: Page) -> str:
    """The serial of the unit on the screen."""
    return next((s for u, s in SERIALS.items() if u in page.locator(".bay-unit").inner_text()), "")


def follow_until(page: Page, key: str, values: dict[str, str] | None = None) -> None:
    """Follow the run until the step ``key`` is on the screen."""
    for _ in range(200):
        if step_now(page) == key:
            return
        do_step(page, values)
    raise AssertionError(f"never reached {key}")


def faults(page: Page, *, bright: bool = False) -> list[str]:
    """Serious and critical accessibility faults of the page on the screen.

    ``bright`` asks for the contrast that is read in bright light too (AAA). The script is put in by
    the tester, past the page's policy.
    """
    page.evaluate((Path(__file__).parent / "vendor" / "axe.min.js").read_text())
    # Of a long table of cells the first rows tell for the others.
    found = page.evaluate(
        """(enabled) => axe.run({ exclude: ["[data-cells] tr:nth-child(n+4)"] },
        { resultTypes: ["violations"], preload: false,
          rules: { "color-contrast-enhanced": { enabled } } })""",
        bright,
    )["violations"]
    return [
        f"{v['id']}: {v['nodes'][0]['html']}"
        for v in found
        if v["impact"] in ("serious", "critical")
    ]
