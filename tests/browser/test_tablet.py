"""What a tablet keeps: two windows, photos, a full store, another person; and the way back."""

import re
from io import BytesIO

import pytest
from PIL import Image
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import People
from tests.browser.hands import (
    card,
    do_step,
    follow_until,
    start_at,
    start_run,
    step_now,
    typed,
    unit_in_bay,
    write_reading,
)
from tests.browser.test_bay import FRONT, entries, one_hole

pytestmark = [pytest.mark.browser, pytest.mark.keeps]
FULL = """() => { Storage.prototype.setItem = () => {
  throw new DOMException("full", "QuotaExceededError"); }; }"""


def written(page: Page, step: str) -> list[tuple[str, object]]:
    """Kind and value of the entries at a step, as the server has them."""
    every = [e["entry"] for e in entries(page)]
    return [(e["kind"], e.get("value")) for e in every if e["step"] == step]  # type: ignore[attr-defined]


def photo() -> dict[str, object]:
    """A photo as a camera gives it."""
    out = BytesIO()
    Image.new("RGB", (1600, 1200), (90, 110, 120)).save(out, "JPEG")
    return {"name": "well.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}


def test_two_windows_and_a_photo_without_the_link(person: People) -> None:
    """What either window wrote is sent once, the photo with it, after both were closed."""
    one = person("technician")
    person.expected.append("ERR_INTERNET_DISCONNECTED")
    run = start_run(one, "Tug 14", FRONT)
    follow_until(one, "ready/codes")
    expect(one.locator("#kept")).to_be_visible()
    expect(one.locator("#sent")).to_have_text("All sent")
    other = one.context.new_page()
    other.goto(run)
    one.context.set_offline(True)
    card(one).get_by_text("Something differs").click()
    card(one).locator("[data-entry=differs] input[type=file]").set_input_files(photo())
    card(one).get_by_role("button", name="Other fastener or size").click()
    expect(other.locator("#sent")).to_have_text("1 not sent yet")
    write_reading(other, "codes", "P0303")
    expect(one.locator("#sent")).to_have_text("2 not sent yet")
    other.locator("[data-confirm]").click()
    other.close()
    one.goto("/floor")
    expect(one.locator("#no-link")).to_contain_text("No link")
    expect(one.locator("#on-tablet")).to_contain_text("Tug 14: Plug and coil, holes 2, 4 and 6: 3")
    expect(unit_in_bay(one, "Tug 14").get_by_role("button", name=FRONT)).to_be_disabled()
    one.get_by_role("link", name="Open it, to send").click()
    expect(card(one).locator("h1")).to_have_text("Switch off, take the key out")
    one.context.set_offline(False)
    expect(one.locator("#sent")).to_have_text("All sent")
    assert written(one, "ready/codes") == [("differs", None), ("reading", "P0303"), ("done", None)]
    one.goto(run.replace("/bay/runs/", "/log/"))
    shown = one.request.get(one.get_by_role("link", name="photo").get_attribute("href") or "")
    assert shown.ok
    assert shown.headers["content-type"] == "image/jpeg"


def test_a_unit_first_then_its_jobs_and_no_hole_repeats_what_the_screen_says(
    person: People,
) -> None:
    """A unit opens, the one before it closes; a hole tells only what does not stand above it."""
    page = person("technician", 360, 740, touch=True)
    page.goto("/bay")
    expect(page.locator(".units form button").first).to_be_hidden()
    units = page.locator(".units > li")
    units.nth(0).locator("summary").tap()
    expect(units.nth(0).locator("form button").first).to_be_visible()
    units.nth(1).locator("summary").tap()
    expect(units.nth(1).locator("form button").first).to_be_visible()
    expect(units.nth(0).locator("form button").first).to_be_hidden()
    run = start_run(page, "Tug 14", FRONT)
    first = card(page).locator("h1").inner_text()
    expect(page.locator(".tray-hole")).to_have_count(3)
    assert first not in page.locator("#tray").inner_text()
    page.goto(f"{run}?step=torque/plug/4")
    expect(page.locator("#looking")).to_contain_text(first)
    expect(page.locator("#tray")).not_to_contain_text(first)


def test_a_full_tablet_says_that_it_wrote_nothing_down(person: People) -> None:
    """No tone of having it, no value on the screen, and the step does not close."""
    page = person("technician")
    start_run(page, "Tug 14", FRONT)
    page.evaluate(FULL)
    write_reading(page, "meter", "19000")
    expect(card(page).get_by_role("alert")).to_contain_text("This tablet is full")
    expect(card(page).locator("[data-reading=meter] [data-kept]")).to_be_hidden()
    assert entries(page) == []


def test_what_a_plain_form_refused_leaves_a_page_like_any_other(person: People) -> None:
    """Sent before its cards had come: it is kept, and loads again, from the run's own address."""
    page = person("technician")
    held: list[Route] = []
    page.route("**/bay/cards/**", lambda route: held.append(route))
    run = start_run(page, "Tug 14", FRONT, listens=False)
    write_reading(page, "serial", "12231")
    expect(card(page).get_by_role("alert")).to_contain_text("The plate says 12231")
    page.unroute("**/bay/cards/**")
    expect(page.locator("#kept")).to_be_visible()
    assert page.url == run
    page.reload()
    expect(card(page).locator("h1")).to_be_visible()


def test_a_page_loaded_past_the_worker_is_kept_too(person: People) -> None:
    """As by a hard reload, or begun before the worker was there: it says so once it is."""
    page = person("technician")
    start_run(page, "Tug 14", FRONT)
    expect(page.locator("#kept")).to_be_visible()
    browser = page.context.new_cdp_session(page)
    with page.expect_navigation():
        browser.send("Page.reload", {"ignoreCache": True})
    expect(page.locator("#kept")).to_be_visible()


def test_what_is_not_on_the_tablet_is_not_called_kept(person: People) -> None:
    """A part that did not come is asked for again before it is said."""
    page = person("technician")
    page.add_init_script(
        """window.lacks = true;
        const found = Cache.prototype.match;
        Cache.prototype.match = function (asked, ...more) {
          const lacking = window.lacks && String(asked).includes("at_bay.js");
          return lacking ? Promise.resolve() : found.call(this, asked, ...more);
        };"""
    )
    start_run(page, "Tug 14", FRONT)
    expect(page.locator("[data-confirm]")).to_be_visible()
    page.wait_for_timeout(1500)
    expect(page.locator("#kept")).to_be_hidden()
    page.evaluate("() => { window.lacks = false; }")
    expect(page.locator("#kept")).to_be_visible()


def test_a_tablet_that_is_full_from_the_start_shows_its_run(person: People) -> None:
    """Nothing that is only handy stops the page; what is written is refused with a word."""
    page = person("technician")
    page.add_init_script(f"({FULL})()")
    start_run(page, "Tug 14", FRONT)
    expect(page.locator("[data-confirm]")).to_be_visible()
    write_reading(page, "meter", "19000")
    expect(card(page).get_by_role("alert")).to_contain_text("This tablet is full")
    assert entries(page) == []


def test_what_one_person_wrote_is_not_sent_in_another_s_name(person: People) -> None:
    """Signed out meanwhile: it waits. Another signs in: it waits for the first."""
    page = person("technician")
    person.expected += ["401", "ERR_INTERNET_DISCONNECTED"]
    run = start_run(page, "Tug 14", FRONT)
    page.context.clear_cookies()
    # Events asked for meanwhile end without a word in the console, and are not asked for again.
    assert (
        page.evaluate("""new Promise((done) => {
      const stream = new EventSource("/live?topic=floor");
      stream.onerror = () => done(stream.readyState); })""")
        == 2
    )
    write_reading(page, "meter", "19000")
    expect(page.locator("#link")).to_contain_text("Signed out. Go on; it is kept here.")
    sign_in_again(page, "lead")
    assert page.url.split("?")[0] == run
    expect(page.locator("#link")).to_contain_text("Written by Tam Okely: sent when Tam Okely signs")
    expect(page.locator("#sent")).to_have_text("1 not sent yet")
    with page.expect_response(re.compile("/entries")):
        sign_in_again(page, "technician")
    expect(page.locator("#sent")).to_have_text("All sent")
    kept = [e for e in entries(page) if e["entry"].get("value") == 19000]  # type: ignore[attr-defined]
    assert [e["by"] for e in kept] == ["technician"]


def sign_in_again(page: Page, name: str) -> None:
    """By the link of the run's page, which leads back to it."""
    page.locator("#link").get_by_role("link", name="Sign in").click()
    page.fill("#name", name)
    page.fill("#password", "eldrim-demo")
    page.press("#password", "Enter")
    page.wait_for_url(re.compile("/bay/runs/"))


def test_a_step_closed_by_mistake_is_opened_again_by_touch(person: People) -> None:
    """Left out by a slip of the finger: open again, done properly, nothing left for the lead."""
    page = person("technician", 360, 740, touch=True)
    start_run(page, "Tug 15", one_hole(person("trainer"), 2))
    follow_until(page, "ready/codes")
    card(page).get_by_text("Cannot do this").tap()
    card(page).get_by_role("button", name="Tool is not here").tap()
    expect(page.locator("#open")).to_contain_text("Tool is not here")
    page.locator("[data-back]").tap()
    assert step_now(page) == "ready/codes"
    expect(page.locator("[data-confirm]")).to_contain_text("To the step in hand")
    page.locator("[data-reopen]").tap()
    expect(page.locator("#open")).to_be_hidden()
    do_step(page)
    assert step_now(page) == "ready/key"
    expect(page.locator("#sent")).to_have_text("All sent")
    kinds = [kind for kind, _ in written(page, "ready/codes")]
    assert kinds == ["skip", "reopen", "reading", "done"]


def test_a_value_in_another_unit_is_converted_and_another_kind_refused(person: People) -> None:
    """The gauge in inches, the sheet in millimetres; volts are no length."""
    page = person("technician")
    start_at(page, "Tug 14", FRONT, "gap/plug/2")
    write_reading(page, "gap_left", "0.9 V")
    expect(card(page).get_by_role("alert")).to_contain_text("V does not measure this")
    write_reading(page, "gap_left", "0,0413 in")
    line = card(page).locator("[data-reading=gap_left] [data-kept]")
    expect(line).to_contain_text("1.05 mm")
    write_reading(page, "gap_left", "1.1")
    expect(line).to_contain_text("at the limit")
    expect(typed(page, "gap_left")).to_have_value("1.1")


KEPT = """async () => {
  const kept = await (await caches.open("eldrim-bay-1")).keys();
  return kept.map((one) => new URL(one.url).pathname).filter((path) => path.startsWith("/bay"));
}"""


def test_pages_kept_for_one_are_not_for_the_next(person: People) -> None:
    """Gone with the sign-out, or when somebody else comes; what is unsent stays where it is."""
    page = person("technician", 820, 1180)
    start_run(page, "Tug 14", FRONT)
    page.evaluate("navigator.serviceWorker.ready")
    page.reload()
    run = page.url.split("?")[0]
    page.wait_for_function(f"async () => ({KEPT})().then((kept) => kept.length > 0)")
    page.evaluate("localStorage.setItem('eldrim:queue/x', 'unsent')")
    page.evaluate("localStorage.setItem('eldrim:user', 'somebody')")
    page.goto("/units")
    page.wait_for_function(f"async () => !(await ({KEPT})()).includes(new URL('{run}').pathname)")
    page.goto(run)
    page.goto("/units")
    # Others go on with this sign-in: it is not really ended.
    page.route("**/sign-out", lambda route: route.fulfill(body="out", content_type="text/html"))
    page.get_by_role("button", name="Sign out").click()
    page.wait_for_url(re.compile("/sign-out"))
    assert page.evaluate(f"({KEPT})()") == []
    assert page.evaluate("localStorage.getItem('eldrim:queue/x')") == "unsent"
