"""A search for a cause in Chromium: from the adapter to the cure, off the link in the middle."""

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import People
from tests.browser.hands import (
    TYPICAL,
    card,
    faults,
    on_a_run,
    own_clock,
    serial_of,
    step_now,
    wind_on,
    write_reading,
)
from tests.browser.test_bay import entries

pytestmark = pytest.mark.browser
SIZES = [(820, 1180), (360, 740)]


@pytest.fixture
def engine(person: People) -> Iterator[Page]:
    """The page on which the engine behind the adapter is broken; whole again afterwards."""
    page = person("lead")
    play(page, "codes")
    play(page, "whole")
    yield page
    play(page, "whole")
    play(page, "codes P0303 P0353")


def play(page: Page, line: str) -> None:
    """Do something with the engine behind the stand-in adapter."""
    page.goto("/devices")
    form = page.locator('form[action="/devices/adapter"]').first
    form.locator("input[name=line]").fill(line)
    form.get_by_role("button").click()
    expect(page.locator(".note")).to_contain_text(f"adapter: {line}")


def begin(page: Page, unit: str) -> None:
    """Read the adapter on a unit's page, and follow what it comes to."""
    page.goto(f"/engines/marlet-34-v6/fault?unit={unit}")
    # Begun with where another search was signed on it before.
    page.get_by_label("since a job was done there").uncheck()
    page.get_by_role("button", name="Read from the adapter").click()
    expect(page.locator("[name=codes]").first).to_have_value("P0302, P0352")
    page.get_by_role("button", name="Follow it in the bay").click()
    on_a_run(page)


def follow_codes(page: Page, unit: str, codes: str) -> None:
    """Follow what these codes come to on a unit."""
    own_clock(page)
    page.goto(f"/engines/marlet-34-v6/fault?unit={unit}&codes={codes}")
    page.get_by_role("button", name="Follow it in the bay").click()
    on_a_run(page)


def do(page: Page, outcome: str = "") -> str:
    """Do the step on the screen; of an outcome this one. The key of the step."""
    here = step_now(page)
    for box in card(page).locator("[data-reading]:not([hidden])").all():
        key = box.get_attribute("data-reading") or ""
        if key == "outcome":
            box.locator(f".pick[value={outcome}]").click()
        else:
            value = {**TYPICAL, "serial": serial_of(page), "earth": "0.1"}[key]
            write_reading(page, key, value)
        expect(box.locator("[data-kept]")).to_be_visible()
    release = card(page).locator("[data-entry=release] button")
    if release.is_visible():
        release.click()
        expect(card(page).locator("[data-held]")).to_be_hidden()
    for tick in card(page).locator("[data-done] input[type=checkbox]").all():
        tick.check()
    wind_on(page)
    page.locator("[data-confirm]:not(.gives)").click()
    return here


def follow(page: Page, until: str, **said: str) -> list[str]:
    """Follow the search until a step with this in its key; by act what comes of it."""
    done: list[str] = []
    for _ in range(80):
        here = step_now(page)
        if until in here:
            return done
        act = next((a for a in said if a.replace("_", "-") in here), "")
        done.append(do(page, said.get(act, "no")))
        expect(page.locator(f'.step-card[data-step="{here}"]')).to_be_hidden()
    raise AssertionError(f"never came to {until}")


@pytest.mark.keeps
@pytest.mark.sweep(1)
@pytest.mark.parametrize(("width", "height"), SIZES)
def test_from_the_adapter_to_the_cure_off_the_link_in_the_middle(
    person: People, engine: Page, width: int, height: int
) -> None:
    """A coil breaks; it is found, renewed and proven, and the unit is watched."""
    play(engine, "break coil 2")
    play(engine, "run")
    page = person("lead", width, height, touch=True)
    own_clock(page)
    begin(page, "tug-14")
    expect(page.locator("#kept")).to_be_visible()
    # Which act comes first hangs on what other searches proved before.
    done = follow(page, "find/")
    assert "remove/sound-cover" in done
    assert not faults(page)
    expect(page.locator("#pace")).to_contain_text("expected in all")
    person.expected.append("ERR_INTERNET_DISCONNECTED")
    page.context.set_offline(True)
    done += follow(page, "find/proof")
    assert "find/hands/renew-coil-2" in done
    assert "remove/coil/2" in done
    page.locator("#search summary").click()
    expect(page.locator("#search li", has_text="Coil of 2")).to_contain_text(re.compile(r"\d\d %"))
    expect(page.locator("#sent")).to_contain_text("not sent yet")
    page.context.set_offline(False)
    expect(page.locator("#sent")).to_have_text("All sent")
    play(engine, "renew coil 2")
    expect(card(page).locator("h1")).to_have_text("Prove it. New coil at 2")
    follow(page, "prove/sign", renew_coil="cured")
    expect(page.locator("#sent")).to_have_text("All sent")
    written = [e["entry"] for e in entries(page)]
    said = [e["value"] for e in written if e.get("reading") == "outcome"]  # type: ignore[attr-defined]
    assert said[-1] == "cured"
    card(page).locator("[data-done] input[type=checkbox]").check()
    wind_on(page)
    page.locator("[data-confirm]:not(.gives)").click()
    page.wait_for_url("**/log/**")
    expect(page.get_by_role("heading", name="Proven: Coil of 2")).to_be_visible()
    page.goto("/units/tug-14")
    expect(page.locator("main")).to_contain_text("Watch after 'Find the cause: P0302 and P0352'")


def test_what_is_followed_is_what_was_typed_last(person: People) -> None:
    """Pressed before its answer came: not the complaint before it."""
    page = person("lead")
    page.goto("/engines/marlet-34-v6/fault?unit=tug-21&codes=P0304")
    expect(page.locator(".fault-told h2").first).to_contain_text("4")
    page.route("**/fault?*", lambda _: None)
    page.locator("[name=codes]").first.fill("P0302")
    page.get_by_label("in the wet").check()
    page.get_by_role("button", name="Follow it in the bay").click()
    on_a_run(page)
    expect(page.locator("#search")).to_contain_text("P0302; in the wet")


def test_what_changed_places_is_drawn_where_it_is(person: People, engine: Page) -> None:
    """Over two coils: an arrow each, on every card, until one of them is new."""
    page = person("lead", 820, 1180, touch=True)
    follow_codes(page, "tug-21", "P0302")
    follow(page, "find/hands/swap-coil")
    expect(page.locator(".moved-here")).to_have_count(0)
    follow(page, "find/test/swap-coil")
    expect(page.locator(".here-plan .moved-here")).to_have_count(2)
    expect(page.locator("#search")).to_contain_text("coil of 2 at 4")
    follow(page, "find/hands/renew-coil", swap_coil="yes")
    assert step_now(page) == "find/hands/renew-coil-4"
    follow(page, "find/proof")
    expect(page.locator(".moved-here")).to_have_count(1)
    expect(page.locator("#search")).to_contain_text("coil of 4 at 2")


def test_an_outcome_gone_on_by_is_opened_again_only_while_nothing_was_done(
    person: People, engine: Page
) -> None:
    """Undone at once it may be said anew; later it stays, and says why."""
    page = person("lead", 820, 1180, touch=True)
    follow_codes(page, "tug-21", "P0302")
    follow(page, "find/test")
    first = step_now(page)
    assert first == "find/test/look-boot-2"
    do(page, "yes")
    expect(card(page).locator("h1")).to_have_text("New boot at 2")
    page.locator("[data-undo]").click()
    expect(card(page)).to_have_attribute("data-step", first)
    do(page, "no")
    expect(card(page)).not_to_have_attribute("data-step", first)
    do(page, "no")
    expect(page.locator("#sent")).to_have_text("All sent")
    page.goto(f"{page.url.split('?')[0]}?step={first}")
    expect(page.locator("body.scripted")).to_be_visible()
    page.locator("[data-reopen]").click()
    expect(page.locator("#refusals")).to_contain_text("it stays")


def test_what_if_a_test_is_struck_out_and_a_tool_is_missing(person: People) -> None:
    """Drawn anew at once, by links and without a reload of what was typed."""
    page = person("trainer")
    page.goto("/engines/marlet-34-v6/fault?codes=P0302")
    tree = page.locator(".fault-drawn")
    expect(tree).to_contain_text("Look at boot")
    page.get_by_text("The same as a list").click()
    page.locator(".fault-node a", has_text=re.compile("what if not.*Look at boot")).first.click()
    expect(page.locator(".what-if")).to_contain_text("without looking at the boot")
    expect(tree).not_to_contain_text("Look at boot")
    page.get_by_text("The same as a list").click()
    page.locator(".fault-node a", has_text="without spark tester").first.click()
    expect(page.locator(".what-if")).to_contain_text("spark tester is missing")
    expect(tree).not_to_contain_text("Spark tester")
    assert not faults(page)


def test_the_plan_beside_the_tree_shows_what_each_test_opens(person: People) -> None:
    """Letter by letter, pointed at from the tree; typed anew, drawn anew; printed, one page."""
    page = person("trainer")
    page.goto("/engines/marlet-34-v6/fault?codes=P0305")
    plan = page.locator("#fault-plan")
    opened = plan.locator("dl div", has_text="Intake plenum")
    letter = opened.locator("dt").inner_text()
    test = page.locator(".fault-tree .fault-test").first
    expect(test).to_contain_text(letter)
    test.hover()
    expect(opened).to_have_class("pointed")
    expect(plan.locator("svg .part.pointed.plenum")).to_have_count(1)
    expect(plan.locator(".callout.pointed", has_text=letter).first).to_be_visible()
    printed = page.pdf(format="A4")
    assert len(re.findall(rb"/Type\s*/Page\b(?!s)", printed)) == 1
    page.get_by_label("Codes read").fill("P0302")
    expect(opened).to_have_count(0)
    expect(plan).to_contain_text("coil 2 off and on")
