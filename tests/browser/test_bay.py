"""The technician in the bay: by keys, by touch, without the link, with devices, with a lead."""

import re

import pytest
from playwright.sync_api import Page, expect

from eldrim.demo.load import PIN
from eldrim.demo.process import DemoProcess
from tests.browser.conftest import People
from tests.browser.hands import (
    ahead,
    card,
    do_step,
    faults,
    follow_until,
    start_at,
    start_run,
    step_now,
    write_reading,
)

pytestmark = pytest.mark.browser
FRONT = "Plug and coil, holes 2, 4 and 6"


def entries(page: Page) -> list[dict[str, str]]:
    """Every entry of the run on the screen, as the server has them."""
    run = page.url.split("/runs/")[1][:36]
    return page.request.get(f"/log/{run}/run.json").json()["entries"]


def one_hole(page: Page, hole: int) -> str:
    """Release the procedure for the plug and coil of one front hole; what its button says."""
    page.goto(f"/engines/marlet-34-v6?c={hole}&work=coil&work=plug&variant=late")
    page.get_by_role("button", name="Make the procedure").click()
    page.fill("#reason", "one hole")
    page.get_by_role("button", name="Release edition 1").click()
    page.wait_for_url(re.compile("/editions/"))
    return f"Plug and coil, hole {hole}"


@pytest.mark.keeps
def test_without_the_link_nothing_is_lost_or_doubled(person: People) -> None:
    """Offline in the middle, reloaded, gone on, back: each entry once, in order."""
    page = person("technician")
    person.expected.append("ERR_INTERNET_DISCONNECTED")
    run = start_run(page, "Tug 14", FRONT)
    expect(page.locator("#sent")).to_have_text("All sent")
    follow_until(page, "ready/codes")
    expect(page.locator("#kept")).to_be_visible()
    expect(page.locator("#sent")).to_have_text("All sent")
    before = len(entries(page))
    page.context.set_offline(True)
    write_reading(page, "codes", "P0303")
    expect(page.locator("#sent")).to_have_text("1 not sent yet")
    page.locator("[data-confirm]").click()
    expect(card(page).locator("h1")).to_have_text("Switch off, take the key out")
    do_step(page)
    expect(card(page).locator("h1")).to_have_text("Measure the battery at rest")
    expect(page.locator("#link")).to_contain_text("No link. Go on")
    page.goto(run)
    expect(card(page).locator("h1")).to_have_text("Measure the battery at rest")
    expect(page.locator("#sent")).to_have_text("3 not sent yet")
    write_reading(page, "volts", "11.2")
    expect(card(page).get_by_role("alert")).to_contain_text("At rest 11.2 V is under 12.3 V")
    write_reading(page, "volts", "12.7")
    page.locator("[data-confirm]").click()
    expect(page.locator("#sent")).to_have_text("5 not sent yet")
    page.context.set_offline(False)
    expect(page.locator("#sent")).to_have_text("All sent")
    expect(page.locator("#refusals")).to_be_empty()
    kept = [e["entry"] for e in entries(page)][before:]
    told = [(e["kind"], e["step"], e.get("value")) for e in kept]
    assert told == [
        ("reading", "ready/codes", "P0303"),
        ("done", "ready/codes", None),
        ("done", "ready/key", None),
        ("reading", "ready/battery", 12.7),
        ("done", "ready/battery", None),
    ]
    assert len({e["id"] for e in kept}) == 5


@pytest.mark.keeps
def test_two_tablets_on_one_run_settle_what_both_did(person: People) -> None:
    """The second to send is told; it is shown, and let go by a person."""
    one, other = person("technician"), person("lead")
    person.expected.append("ERR_INTERNET_DISCONNECTED")
    run = start_run(one, "Tug 14", FRONT)
    one.goto(f"{run}?step=prove/sign")
    one.locator("[data-confirm]").click()
    told = card(one).get_by_role("alert")
    expect(told).to_contain_text("still open: Confirm the unit")
    expect(told).to_contain_text("Read the codes again")
    one.goto(run)
    follow_until(one, "ready/codes")
    expect(one.locator("#sent")).to_have_text("All sent")
    other.goto(run)
    expect(other.locator("#kept")).to_be_visible()
    other.context.set_offline(True)
    write_reading(other, "codes", "none")
    other.locator("[data-confirm]").click()
    do_step(one, {"codes": "P0303"})
    expect(one.locator("#sent")).to_have_text("All sent")
    other.context.set_offline(False)
    told = other.locator("#refusals")
    expect(told).to_contain_text("Not taken by the server")
    expect(told).to_contain_text("already done")
    told.get_by_role("button", name="Let it go").click()
    expect(told).to_be_empty()
    for page in (one, other):
        expect(page.locator("#conflicts")).to_contain_text("Which holds?")
    one.get_by_role("button", name="Codes found: P0303").click()
    for page in (one, other):
        expect(page.locator("#conflicts")).to_be_hidden()
    kept = [e["entry"] for e in entries(one) if e["entry"]["step"] == "ready/codes"]
    assert [e["kind"] for e in kept].count("done") == 1
    assert [e["value"] for e in kept if e["kind"] == "reading"] == ["P0303", "none", "P0303"]


def stopped_for_oil(person: People) -> Page:
    """A technician who found oil in a well; three acts are asked for."""
    page = person("technician")
    start_at(page, "Tug 14", FRONT, "clean/coils")
    card(page).get_by_text("Stop: something is wrong").click()
    card(page).get_by_role("button", name="Oil in the well").click()
    expect(card(page).locator(".stop-acts li")).to_have_count(3)
    return page


def test_a_stop_says_what_to_do_and_the_work_goes_on(person: People) -> None:
    """Oil in a well: three acts, cleared, a part more; nothing closes meanwhile."""
    page = stopped_for_oil(person)
    acts = card(page).locator(".stop-acts")
    expect(page.locator("#parts")).to_contain_text("cover gasket (Oil in the well")
    page.locator("[data-confirm]").click()
    expect(card(page).get_by_role("alert")).to_contain_text("A stop is open here")
    card(page).get_by_text("Something differs").click()
    card(page).locator("[data-entry=differs]").get_by_label("Note").fill("M5 instead of M6")
    card(page).get_by_role("button", name="Other fastener or size").click()
    acts.get_by_label("What was done?").fill("wicked out, dry")
    acts.get_by_role("button", name="The well is dry").click()
    expect(acts).to_have_count(0)
    do_step(page)
    expect(page.locator("#sent")).to_have_text("All sent")
    page.goto(page.url.replace("/bay/runs/", "/log/").split("?")[0])
    expect(page.locator("main")).to_contain_text("Oil in the well")
    expect(page.locator("main")).to_contain_text("cover gasket")
    expect(page.locator("main")).to_contain_text("Other fastener or size: M5 instead of M6")
    trainer = person("trainer")
    trainer.goto("/procedures")
    trainer.get_by_role("link", name=FRONT).first.click()
    said = trainer.locator("li[id='clean/coils'] .bays-say")
    expect(said).to_contain_text("Oil in the well")
    expect(said).to_contain_text("M5 instead of M6")


# Keeps the next answer on the state of the run back until `letGo` is called.
HOLD_NEXT_STATE = """() => {
  const ask = window.fetch;
  let next = true;
  let held;
  window.holding = new Promise((go) => { held = go; });
  window.fetch = async (address, options) => {
    const answer = await ask(address, options);
    if (next && String(address).includes("/state?")) {
      next = false;
      await new Promise((go) => { window.letGo = go; held(); });
    }
    return answer;
  };
}"""


def test_an_answer_from_before_an_entry_does_not_take_it_back(person: People) -> None:
    """What was asked before a stop was cleared and is heard after it does not open it again."""
    page = stopped_for_oil(person)
    acts = card(page).locator(".stop-acts")
    expect(page.locator("#sent")).to_have_text("All sent")
    page.evaluate(HOLD_NEXT_STATE)
    page.evaluate("() => window.holding")
    acts.get_by_label("What was done?").fill("wicked out, dry")
    acts.get_by_role("button", name="The well is dry").click()
    expect(page.locator("#sent")).to_have_text("All sent")
    expect(acts).to_have_count(0)
    page.evaluate(
        """() => { window.seen = 0; new MutationObserver(() => {
          if (document.querySelector(".step-card .stop-acts")) window.seen += 1;
        }).observe(document.body, { childList: true, subtree: true }); }"""
    )
    page.evaluate("() => window.letGo()")
    do_step(page)
    assert page.evaluate("() => window.seen") == 0


def test_a_lead_releases_a_hold_point_here_and_from_the_floor(person: People) -> None:
    """By PIN on the technician's screen; the next from the lead's own page, live on both."""
    trainer, page, lead = person("trainer"), person("technician"), person("lead")
    person.expected.append("403")
    trainer.goto("/engines/marlet-34-v6?c=6&work=coil&work=plug&variant=late")
    trainer.get_by_role("button", name="Make the procedure").click()
    for step in ("ready/codes", "ready/battery"):
        held = trainer.locator(f"li[id='{step}']")
        held.locator(".edit-step > summary").click()
        held.get_by_label("Hold point").check()
        held.get_by_role("button", name="Keep the step").first.click()
        expect(held).to_contain_text("hold point")
    trainer.fill("#reason", "held twice")
    trainer.get_by_role("button", name="Release edition 1").click()
    start_run(page, "Tug 14", "Plug and coil, hole 6")
    follow_until(page, "ready/codes")
    write_reading(page, "codes", "none")
    page.locator("[data-confirm]").click()
    expect(card(page).get_by_role("alert")).to_contain_text("Hold point")
    card(page).get_by_label("PIN").fill("9999")
    card(page).get_by_role("button", name="Release").click()
    expect(card(page).get_by_role("alert")).to_contain_text("not the lead's PIN")
    card(page).get_by_label("PIN").fill(PIN)
    card(page).get_by_role("button", name="Release").click()
    expect(card(page).locator("[data-held]")).to_be_hidden()
    page.locator("[data-confirm]").click()
    do_step(page)
    write_reading(page, "volts", "12.6")
    lead.goto("/floor")
    held_bay = lead.locator(".floor-bay", has_text="hole 6")
    expect(held_bay).to_contain_text("Measure the battery at rest")
    held_bay.get_by_role("button", name="Release").click()
    expect(card(page).locator("[data-held]")).to_be_hidden()
    page.locator("[data-confirm]").click()
    expect(lead.locator(".floor-bay", has_text="hole 6")).to_contain_text(
        "Measure the cylinder head"
    )


def test_a_lead_accepts_a_deviation_on_the_technician_s_screen(person: People) -> None:
    """By PIN, as the lead's own word; a wrong one is told and changes nothing."""
    page = person("technician")
    person.expected.append("403")
    start_run(page, "Tug 14", FRONT)
    page.goto(page.url.split("?")[0] + "?step=ready/battery")
    write_reading(page, "volts", "11.9")
    card(page).get_by_role("button", name="Measured twice, stays so").click()
    waiting = page.locator("#open")
    waiting.get_by_text("A lead accepts it here by PIN").click()
    expect(page.locator("#sent")).to_have_text("All sent")
    for pin in ("9999", PIN):
        waiting.get_by_label("PIN", exact=True).fill(pin)
        waiting.get_by_role("button", name="Accept").click()
        if pin != PIN:
            expect(card(page).get_by_role("alert")).to_contain_text("not the lead's PIN")
            expect(waiting).to_contain_text("11.9 V")
    expect(waiting).to_be_hidden()
    expect(card(page).locator("[data-why]")).to_be_hidden()
    accepted = [e for e in entries(page) if e["entry"]["kind"] == "accept"]
    assert [(e["by"], e["role"]) for e in accepted] == [("lead", "lead")]


@pytest.mark.keeps
def test_a_lead_sends_work_back_by_pin_with_a_word(person: People) -> None:
    """Without a word it is asked for; without the link it is said why; then the step is open."""
    page = person("technician")
    person.expected.append("ERR_INTERNET_DISCONNECTED")
    start_at(page, "Tug 14", FRONT, "ready/battery")
    write_reading(page, "volts", "11.9")
    card(page).get_by_role("button", name="Measured twice, stays so").click()
    page.locator("[data-confirm]").click()
    expect(page.locator("#sent")).to_have_text("All sent")
    open_ = page.locator("#open")
    open_.get_by_text("A lead accepts it here by PIN").click()
    open_.get_by_label("PIN", exact=True).fill(PIN)
    open_.get_by_role("button", name="Do it again").click()
    expect(open_.get_by_role("alert")).to_contain_text("Say in a word why")
    open_.get_by_label("Word with it").fill("charge it first")
    page.context.set_offline(True)
    open_.get_by_role("button", name="Do it again").click()
    expect(card(page).locator("[data-why]")).to_contain_text("needs the link")
    page.context.set_offline(False)
    open_.get_by_label("PIN", exact=True).fill(PIN)
    open_.get_by_role("button", name="Do it again").click()
    expect(open_).to_be_hidden()
    page.keyboard.press("n")
    assert step_now(page) == "ready/battery"
    expect(card(page).locator("[data-marks]")).to_contain_text("to be done again: charge it first")
    expect(card(page).locator("[data-kept]")).to_be_hidden()


def test_a_torque_is_streamed_from_the_wrench_into_the_step(
    person: People, demo: DemoProcess
) -> None:
    """Pulled on the devices page; judged at once; lost, it is typed."""
    page, bench = person("technician"), person("trainer")
    start_run(page, "Tug 14", FRONT)
    page.get_by_text("Devices of this tablet").click()
    page.get_by_label("Torque wrench").check()
    page.get_by_label("Multimeter").check()
    heard = page.locator("[data-listening]")
    expect(heard).to_have_text("listening: Multimeter, Torque wrench")
    follow_until(page, "ready/codes")
    card(page).get_by_role("button", name="Read from the adapter").click()
    expect(card(page).locator("[data-kept]")).to_contain_text("P0303, P0353; freeze P0303")
    page.locator("[data-confirm]").click()
    do_step(page)
    play(bench, "meter", "12.4 V")
    expect(card(page).locator("[data-kept]")).to_contain_text("12.4 V")
    page.locator("[data-confirm]").click()
    ahead(page, "torque/plug/2")
    expect(heard).to_contain_text("Torque wrench")
    play(bench, "wrench", "31 N·m")
    expect(card(page).get_by_role("alert")).to_contain_text("31 N·m is over 20 N·m")
    play(bench, "wrench", "17.4 N·m")
    expect(card(page).locator("[data-kept]")).to_contain_text("17.4 N·m")
    play(bench, "wrench", "13 lbf·ft")
    expect(card(page).locator("[data-kept]")).to_contain_text("17.6 N·m")
    play(bench, "wrench", "off")
    expect(heard).to_contain_text("lost for now: Torque wrench")
    do_step(page, {"torque": "17.5"})
    assert step_now(page) != "torque/plug/2"
    play(bench, "wrench", "on")


def play(page: Page, device: str, line: str) -> None:
    """Do something with a stand-in."""
    page.goto("/devices")
    form = page.locator(f"form[action='/devices/{device}']").first
    if line in ("on", "off"):
        page.locator(f"form[action='/devices/{device}']:has(input[value={line}]) button").click()
    else:
        form.locator("input[name=line]").fill(line)
        form.get_by_role("button").click()
    expect(page.get_by_role("status")).to_contain_text(device)


def test_a_gap_out_of_range_is_advised_on(person: People) -> None:
    """The adviser speaks where the gap is written down."""
    page = person("technician")
    start_at(page, "Tug 14", FRONT, "read/plug/2")
    write_reading(page, "gap_found", "1.3")
    expect(card(page).locator("[data-advice]:visible")).to_contain_text("Worn out of its range")


def test_no_bay_page_has_a_serious_accessibility_fault(person: People) -> None:
    """A step with readings, one with a stop open, the floor, the devices."""
    page = person("technician")
    start_run(page, "Tug 14", FRONT)
    assert faults(page, bright=True) == []
    ahead(page, "ready/temperature")
    write_reading(page, "temperature", "88")
    expect(card(page).locator("[data-waiting]")).to_be_visible()
    assert faults(page, bright=True) == []
    ahead(page, "clean/coils")
    card(page).get_by_text("Stop: something is wrong").click()
    card(page).get_by_role("button", name="Oil in the well").click()
    expect(card(page).locator(".stop-acts")).to_be_visible()
    assert faults(page, bright=True) == []
    ahead_page = page.url.split("?")[0]
    page.goto(f"{ahead_page}?step=torque/plug/2")
    assert faults(page, bright=True) == []
    for address in ("/floor", "/devices", "/people", "/bay?label=ELDRIM UNIT tug-14 2231"):
        page.goto(address)
        assert faults(page) == []
    lead = person("lead")
    lead.goto("/people")
    assert faults(lead) == []
