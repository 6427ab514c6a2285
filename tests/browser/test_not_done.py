"""What a tired person must not sign by mistake: by touch on a phone and a tablet, and by keys."""

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import People
from tests.browser.hands import (
    ahead,
    card,
    do_step,
    on_a_run,
    start_at,
    start_run,
    step_now,
    typed,
    write_reading,
)
from tests.browser.test_bay import FRONT, entries, play
from tests.sweeps import drawn

pytestmark = pytest.mark.browser
SIZES = [(360, 740), (820, 1180)]
# Of the demo's editions so many are walked step by step in a run, by turns.
EDITIONS_LOOKED_AT = 3
# Taps without waiting for anything, as a finger does.
TWICE = """async (wait) => {
  const tap = () => {
    const at = document.querySelector("[data-confirm]");
    for (const kind of ["pointerdown", "pointerup"])
      at.dispatchEvent(new PointerEvent(kind, { bubbles: true, pointerType: "touch" }));
    at.click();
  };
  tap();
  await new Promise((go) => setTimeout(go, wait));
  tap();
}"""


# Likewise a key, by a browser that is quicker than the hands of a test on a busy machine.
TWICE_A_KEY = """async (key) => {
  const press = () => {
    const at = document.activeElement ?? document.body;
    for (const kind of ["keydown", "keyup"])
      at.dispatchEvent(new KeyboardEvent(kind, { key, bubbles: true, cancelable: true }));
  };
  press();
  await new Promise((go) => setTimeout(go, 40));
  press();
}"""


def closed(page: Page) -> list[str]:
    """The steps closed so far, as the server has them."""
    expect(page.locator("#sent")).to_have_text("All sent")
    return [e["entry"]["step"] for e in entries(page) if e["entry"]["kind"] == "done"]  # type: ignore[index]


@pytest.mark.sweep(1)
@pytest.mark.parametrize(("width", "height"), SIZES)
@pytest.mark.parametrize("wait", [40, 250])
def test_a_double_tap_closes_one_step(person: People, width: int, height: int, wait: int) -> None:
    """The second finds the next step resting; what was closed is taken back beside it."""
    page = person("technician", width, height, touch=True)
    start_at(page, "Tug 14", FRONT, "release/coil/2/connector")
    before = closed(page)
    page.evaluate(TWICE, wait)
    assert closed(page) == [*before, "release/coil/2/connector"]
    undo = page.locator("[data-undo]")
    expect(undo).to_contain_text("Undo: ")
    undo.tap()
    assert step_now(page) == "release/coil/2/connector"
    expect(page.locator("[data-confirm]")).to_contain_text("Step done")


def test_a_key_pressed_twice_closes_one_step(person: People) -> None:
    """Space and the foot switch rest alike; held down, a key does not go on."""
    page = person("technician")
    start_at(page, "Tug 14", FRONT, "release/coil/2/connector")
    before = closed(page)
    page.evaluate(TWICE_A_KEY, "PageDown")
    assert len(closed(page)) == len(before) + 1
    expect(page.locator("[data-confirm]")).to_be_enabled()
    page.evaluate(TWICE_A_KEY, " ")
    assert len(closed(page)) == len(before) + 2


@pytest.mark.sweep(1)
@pytest.mark.parametrize(("width", "height"), SIZES)
def test_a_finger_drawn_across_names_where_one_is(person: People, width: int, height: int) -> None:
    """Before it can be confirmed; and starts no going back of the browser."""
    page = person("technician", width, height, touch=True)
    start_at(page, "Tug 14", FRONT, "fit/coil/2")
    # Looked at in the same turn: the rest is over soon, however slow the machine is.
    rests = page.evaluate(
        """() => {
          const at = document.querySelector(".step-card h1");
          const send = (kind, x) => {
            const finger = [new Touch({ identifier: 1, target: at, clientX: x, clientY: 200 })];
            const touches = kind === "touchend" ? [] : finger;
            const said = { bubbles: true, touches, changedTouches: finger };
            at.dispatchEvent(new TouchEvent(kind, said));
          };
          send("touchstart", 300);
          send("touchend", 40);
          return document.querySelector("[data-confirm]").disabled;
        }"""
    )
    expect(page.locator("#now-at")).to_contain_text("hole 4")
    assert rests
    assert page.evaluate("getComputedStyle(document.body).overscrollBehaviorX") == "none"


def test_a_step_that_waits_takes_no_value(person: People) -> None:
    """Looked ahead at, it says what comes first, and arrives with nothing in it."""
    page = person("technician")
    start_run(page, "Tug 14", FRONT)
    page.goto(page.url.split("?")[0] + "?step=torque/plug/2")
    write_reading(page, "torque", "17")
    expect(card(page).get_by_role("alert")).to_contain_text("First: Confirm the unit")
    ahead(page, "torque/plug/2")
    expect(card(page).locator("[data-kept]")).to_be_hidden()


def test_a_wrench_that_went_over_is_not_clicked_away(person: People) -> None:
    """The second click stands, and the first stays for the lead."""
    page, bench = person("technician"), person("trainer")
    start_run(page, "Tug 14", FRONT)
    page.get_by_text("Devices of this tablet").click()
    page.get_by_label("Torque wrench").check()
    expect(page.locator("[data-listening]")).to_contain_text("Torque wrench")
    ahead(page, "torque/plug/2")
    expect(page.locator("[data-listening]")).to_contain_text("Torque wrench")
    play(bench, "wrench", "26 N·m")
    expect(card(page).get_by_role("alert")).to_contain_text("26 N·m is over 20 N·m")
    play(bench, "wrench", "17.4 N·m")
    expect(card(page).locator("[data-kept]")).to_contain_text("17.4 N·m")
    # Between them stands what it was the last time, where another run on the unit was signed.
    expect(page.locator("#open")).to_contain_text("26 N·m; window 15–20 N·m.")
    expect(page.locator("#open")).to_contain_text("Wrench went over its window")
    expect(card(page).locator("[data-marks]")).to_contain_text("does not mend a stretched thread")
    expect(page.locator("#sent")).to_have_text("All sent")
    said = [(e["entry"]["kind"], e["entry"].get("how")) for e in entries(page)]  # type: ignore[attr-defined]
    assert said[-2:] == [("over", "device"), ("reading", "device")]


def test_a_device_ticked_while_the_page_still_comes_is_heard(person: People) -> None:
    """The cards come after the page on a slow link; what was ticked meanwhile was unticked."""
    page = person("technician")
    held: list[Route] = []
    page.route("**/bay/cards/**", lambda route: held.append(route))
    start_run(page, "Tug 14", FRONT, listens=False)
    page.get_by_text("Devices of this tablet").click()
    page.get_by_label("Torque wrench").check()
    assert held
    for route in held:
        route.continue_()
    expect(page.locator("[data-listening]")).to_contain_text("Torque wrench")


@pytest.mark.sweep(1)
@pytest.mark.parametrize(("width", "height"), SIZES)
def test_what_cannot_follow_is_closed_with_what_could_not_be_done(
    person: People, width: int, height: int
) -> None:
    """A plug that is still in: its coil goes back on, and every report says NOT DONE."""
    page = person("technician", width, height, touch=True)
    start_at(page, "Tug 14", FRONT, "remove/plug/4")
    card(page).get_by_text("Cannot do this").tap()
    card(page).get_by_role("button", name="Will not come loose").tap()
    page.goto(page.url.split("?")[0] + "?step=torque/plug/4")
    expect(card(page).locator("[data-marks]")).to_contain_text("NOT DONE: 'Take out plug 4'")
    ahead(page, "fit/coil/4")
    assert step_now(page) == "fit/coil/4"
    hole = page.locator(".tray-hole", has=page.locator("b", has_text="4"))
    expect(hole).to_contain_text("NOT DONE")
    run = page.url.split("/runs/")[1][:36]
    page.goto(f"/log/{run}")
    expect(page.locator("#deviations")).to_contain_text("NOT DONE, nor: Read plug 4")
    assert "NOT DONE" in page.request.get(f"/log/{run}/run.csv").text()


def test_another_plate_stops_the_run(person: People) -> None:
    """Recorded as it is, nothing goes on until a lead decides."""
    page = person("technician", 820, 1180, touch=True)
    start_run(page, "Tug 14", FRONT)
    write_reading(page, "serial", "12231")
    expect(card(page).get_by_role("alert")).to_contain_text("The plate says 12231")
    card(page).get_by_role("button", name="Plate worn or missing").tap()
    write_reading(page, "meter", "19000")
    for box in card(page).locator("[data-done] input[type=checkbox]").all():
        box.check()
    page.locator("[data-confirm]").tap()
    expect(card(page).get_by_role("alert")).to_contain_text("until a lead decides")


def test_what_can_hardly_be_is_asked_about(person: People) -> None:
    """Said what it may have been, each a tap; touched, a field is typed over."""
    page = person("technician")
    start_at(page, "Tug 14", FRONT, "ready/battery")
    write_reading(page, "volts", "126")
    expect(card(page).get_by_role("alert")).to_contain_text("126 V can hardly be")
    card(page).get_by_role("button", name="Did you mean 12.6 V?").click()
    expect(card(page).locator("[data-kept]").first).to_contain_text("12.6 V")
    ahead(page, "torque/plug/2")
    write_reading(page, "torque", "13")
    card(page).get_by_role("button", name="Did you mean 17.6 N·m (13 lbf·ft)?").click()
    expect(card(page).locator("[data-kept]")).to_contain_text("17.6 N·m")
    typed(page, "torque").click()
    page.keyboard.type("18")
    expect(typed(page, "torque")).to_have_value("18")


def test_what_is_recorded_as_it_is_stands_in_the_field(person: People) -> None:
    """Changed after it was refused, the value before it is offered for recording no more."""
    page = person("technician")
    start_at(page, "Tug 14", FRONT, "torque/plug/2")
    deviate, meant = card(page).locator(".deviate"), card(page).locator(".meant")
    write_reading(page, "torque", "12")
    expect(deviate).to_be_visible()
    write_reading(page, "torque", "12 mm")
    expect(card(page).get_by_role("alert")).to_contain_text("mm")
    expect(deviate).to_be_hidden()
    write_reading(page, "torque", "13")
    expect(deviate).to_be_visible()
    expect(meant).to_have_count(1)
    typed(page, "torque").press("End")
    page.keyboard.type("9")
    expect(deviate).to_be_hidden()
    expect(meant).to_have_count(0)
    write_reading(page, "torque", " ")
    expect(card(page).get_by_role("alert")).to_contain_text("nothing was entered")


@pytest.mark.sweep(1)
@pytest.mark.parametrize(("width", "height"), [(360, 740), (820, 1180)])
def test_what_a_stop_asks_for_comes_into_sight(person: People, width: int, height: int) -> None:
    """Tapped far down the page, the acts stand before whoever stopped."""
    page = person("technician", width, height, touch=True)
    start_at(page, "Tug 14", FRONT, "remove/plug/2")
    card(page).get_by_text("Stop: something is wrong").tap()
    card(page).locator("[data-mark=stop] .pick").first.tap()
    acts = card(page).locator(".stop-acts")
    expect(acts.locator("h2")).to_be_in_viewport()
    expect(acts.locator("li").first).to_be_in_viewport()
    expect(acts.locator("h2")).to_be_focused()


def test_the_meter_says_what_it_counts(person: People) -> None:
    """At its field and beside what was written, on the first page and on one that is kept."""
    page = person("technician")
    start_run(page, "Tug 14", FRONT)
    box = card(page).locator("[data-reading=meter]")
    expect(box.locator("label")).to_contain_text("hours")
    write_reading(page, "meter", "19000")
    expect(box.locator("[data-kept]")).to_contain_text("19000 hours")
    ahead(page, "prove/sign")
    box = card(page).locator("[data-reading=next_meter]")
    expect(box.locator("label")).to_contain_text("hours")


def test_a_typed_reading_is_two_taps(person: People) -> None:
    """The field, and Step done, which writes it down."""
    page = person("technician")
    start_at(page, "Tug 14", FRONT, "torque/plug/2")
    typed(page, "torque").fill("17.5")
    page.locator("[data-confirm]").click()
    expect(card(page).locator("h1")).not_to_have_text("Torque plug 2")
    expect(page.locator("#sent")).to_have_text("All sent")
    last = [(e["entry"]["kind"], e["entry"]["step"]) for e in entries(page)][-2:]  # type: ignore[index]
    assert last == [("reading", "torque/plug/2"), ("done", "torque/plug/2")]


def tap_figures(page: Page, figures: str) -> None:
    """Each on the pad at the foot of the page."""
    for figure in figures:
        page.locator("#pad").get_by_text(figure, exact=True).tap()


@pytest.mark.sweep(1)
@pytest.mark.parametrize(("width", "height"), SIZES)
def test_a_number_is_tapped_without_touching_its_field(
    person: People, width: int, height: int
) -> None:
    """On the pad, then the large button: no keyboard comes up, and nothing else is tapped."""
    page = person("technician", width, height, touch=True)
    start_at(page, "Tug 14", FRONT, "torque/plug/2")
    pad = page.get_by_role("group", name="Figures for Torque")
    expect(pad).to_be_visible()
    tap_figures(page, "17.58⌫")
    expect(typed(page, "torque")).to_have_value("17.5")
    expect(page.locator("[data-confirm]")).to_contain_text("17.5 N·m Step done")
    assert not page.evaluate("document.activeElement.matches('input')")
    page.locator("[data-confirm]").tap()
    assert closed(page)[-1] == "torque/plug/2"
    [read] = [e["entry"] for e in entries(page) if e["entry"]["kind"] == "reading"][-1:]  # type: ignore[index]
    assert (read["value"], read["how"]) == (17.5, "typed")  # type: ignore[index]
    # The next hole asks for its own, which is in hand already.
    tap_figures(page, "16.5")
    page.locator("[data-confirm]").tap()
    assert closed(page)[-1] == "torque/plug/4"


def test_what_was_refused_is_typed_over_on_the_pad(person: People) -> None:
    """The next figure begins anew; what stood there and was refused is no part of it."""
    page = person("technician", 360, 740, touch=True)
    start_at(page, "Tug 14", FRONT, "torque/plug/2")
    tap_figures(page, "99")
    page.locator("[data-confirm]").tap()
    expect(card(page).locator("[data-why]")).to_be_visible()
    tap_figures(page, "17")
    expect(typed(page, "torque")).to_have_value("17")
    expect(card(page).locator(".deviate")).to_be_hidden()


def test_the_pad_is_there_for_a_finger_and_a_step_in_hand(person: People) -> None:
    """Not with a mouse, at a step that asks for no number, or beside the tablet's own keyboard; not
    for what a device sends.
    """
    desk = person("technician")
    start_at(desk, "Tug 14", FRONT, "torque/plug/2")
    expect(desk.locator("#pad")).to_be_hidden()
    page = person("technician", 820, 1180, touch=True)
    start_at(page, "Tug 14", FRONT, "torque/plug/2")
    pad = page.locator("#pad")
    expect(pad).to_be_visible()
    typed(page, "torque").tap()
    expect(pad).to_be_hidden()
    card(page).locator("h1").tap()
    page.evaluate("document.activeElement.blur()")
    expect(pad).to_be_visible()
    page.locator("[data-back]").tap()
    expect(pad).to_be_hidden()
    page.locator("[data-on]").tap()
    expect(pad).to_be_visible()
    page.get_by_text("Devices of this tablet").click()
    page.get_by_label("Torque wrench").check()
    expect(page.locator("[data-listening]")).to_contain_text("Torque wrench")
    expect(pad).to_be_hidden()


def test_the_pad_goes_from_number_to_number(person: People) -> None:
    """Too hot, the air is asked for next, and is in hand."""
    page = person("technician", 820, 1180, touch=True)
    start_at(page, "Tug 14", FRONT, "ready/temperature")
    tap_figures(page, "85")
    card(page).locator("[data-reading=temperature] .reading-form button").tap()
    expect(card(page).locator("[data-reading=air] input.in-hand")).to_be_visible()
    tap_figures(page, "18")
    expect(typed(page, "air")).to_have_value("18")
    expect(typed(page, "temperature")).to_have_value("")


def test_what_fell_in_is_cleared_by_a_lead(person: People) -> None:
    """Here, by PIN, with a word of what was done."""
    page = person("technician", 820, 1180, touch=True)
    start_at(page, "Tug 14", FRONT, "torque/plug/2")
    card(page).get_by_text("Stop: something is wrong").tap()
    expect(card(page).get_by_role("button", name="Plug keeps turning")).to_be_visible()

    page = person("technician", 820, 1180, touch=True)
    start_at(page, "Tug 14", FRONT, "start/plug/2")
    card(page).get_by_text("Stop: something is wrong").tap()
    card(page).get_by_role("button", name="Something fell in").tap()
    acts = card(page).locator(".stop-acts")
    acts.get_by_label("What was done?").fill("washer, by magnet")
    acts.get_by_label("PIN").fill("246813")
    acts.get_by_role("button", name="It is out, and counted").tap()
    expect(acts).to_have_count(0)
    do_step(page)
    run = page.url.split("/runs/")[1][:36]
    page.goto(f"/log/{run}")
    expect(page.locator("main")).to_contain_text("washer, by magnet (Berit Vance, ")


def test_leaving_with_something_typed_is_asked(person: People) -> None:
    """No swipe and no link takes what is typed along."""
    page = person("technician")
    start_at(page, "Tug 14", FRONT, "torque/plug/2")
    asked: list[str] = []
    page.on("dialog", lambda dialog: (asked.append(dialog.type), dialog.dismiss()))
    page.locator(".leave").click()
    page.wait_for_url("**/bay")
    assert not asked, "nothing was typed"
    page.go_back()
    typed(page, "torque").press_sequentially("17.5")
    page.locator(".leave").click(no_wait_after=True)
    page.wait_for_timeout(500)
    assert asked == ["beforeunload"]
    assert typed(page, "torque").input_value() == "17.5"


def test_taking_another_bay_s_device_asks_and_tells(person: People) -> None:
    """Left there, nothing changes; taken over, the tablet that loses it says so."""
    one, other = person("technician"), person("lead")
    start_run(one, "Tug 14", FRONT)
    one.get_by_text("Devices of this tablet").click()
    one.get_by_label("Torque wrench").check()
    expect(one.locator("[data-listening]")).to_contain_text("Torque wrench")
    start_run(other, "Tug 15", FRONT)
    other.get_by_text("Devices of this tablet").click()
    wrench = other.get_by_label("Torque wrench")
    wrench.click()
    expect(other.locator("#device-said")).to_contain_text("heard by the tablet of Tam Okely")
    expect(wrench).not_to_be_checked()
    other.get_by_role("button", name="Leave it there").click()
    expect(one.locator("[data-listening]")).to_contain_text("Torque wrench")
    wrench.click()
    other.get_by_role("button", name="Take it over").click()
    expect(other.locator("[data-listening]")).to_contain_text("Torque wrench")
    expect(one.locator("#device-said")).to_contain_text("was taken over by Berit Vance")
    expect(one.get_by_label("Torque wrench")).not_to_be_checked()


MOST_TAPS, MOST_SCROLLS = 16, {360: 2, 820: 0}
# Of the step on the screen, by hand, without a device: the taps it takes (one for each reading that
# is no figure, one for the step with its proofs; figures are tapped on the pad, which is in hand by
# itself), and how often the page is scrolled to reach the last of them.
MEASURE = """() => {
  // Looked ahead at, a step says that it waits and has no pad; in hand it is otherwise.
  document.getElementById("looking").hidden = true;
  const card = document.querySelector(".step-card");
  const foot = document.querySelector(".bay-foot").getBoundingClientRect().height;
  const boxes = [...card.querySelectorAll("[data-reading]:not([hidden])")]
    // Asked of nobody.
    .filter((box) => box.dataset.reading !== "gap_supplied");
  const byHand = boxes.filter((box) => !box.querySelector("input[inputmode=decimal]"));
  document.getElementById("pad").hidden = byHand.length === boxes.length;
  const held = document.querySelector(".bay-hold").getBoundingClientRect().height;
  document.getElementById("pad").hidden = true;
  const seen = window.innerHeight - foot;
  // What is tapped on the pad stands in the large button too. Once one scrolls the pad is gone.
  const bottoms = byHand.map((box) => {
    const last = box.querySelector("fieldset") ?? box.querySelector("input[name=value]");
    return last.getBoundingClientRect().bottom + window.scrollY;
  });
  const small = [...card.querySelectorAll("button, input:not([type=hidden]), summary, a")]
    .filter((at) => at.offsetParent && !at.closest("svg"))
    .map((at) => (at.closest("label") ?? at).getBoundingClientRect().height)
    .filter((height) => height < 44).length;
  const drawn = [...document.querySelectorAll(".bay-page svg text")]
    .filter((text) => text.getClientRects().length)
    .map((text) => parseFloat(getComputedStyle(text).fontSize) * text.getScreenCTM().a);
  return { step: card.dataset.step, taps: byHand.length + 1, foot, small,
    least: Math.min(99, ...drawn.filter((size) => size > 0)),
    scrolls: Math.max(
      Math.max(0, ...bottoms) > window.innerHeight - held ? 1 : 0,
      Math.ceil((Math.max(0, ...bottoms) - seen) / seen),
    ),
    hole: JSON.parse(document.getElementById("run-data").textContent).steps
      .find((step) => step.key === card.dataset.step).hole };
}"""


@pytest.mark.sweep(1)
@pytest.mark.parametrize(("width", "height"), SIZES)
def test_few_taps_and_hardly_a_scroll_for_each_demo_edition(
    person: People, width: int, height: int
) -> None:
    """At every step of every edition; counted at its holes, plug and coil together."""
    page = person("technician", width, height, touch=True)
    page.goto("/bay")
    fields = page.locator(".units > li form [name=edition]")
    editions = list(dict.fromkeys(fields.evaluate_all("all => all.map((field) => field.value)")))
    assert len(editions) > 2
    for edition in drawn(editions, EDITIONS_LOOKED_AT):
        page.goto("/bay")
        form = page.locator(".units > li form").filter(has=page.locator(f"[value='{edition}']"))
        form.first.locator("xpath=ancestor::details").locator("summary").click()
        title = form.first.inner_text()
        form.first.get_by_role("button").click()
        on_a_run(page)
        _count_at_holes(page, width, title)


def _count_at_holes(page: Page, width: int, title: str) -> None:
    holes: dict[str, list[int]] = {}
    count = page.evaluate(
        "JSON.parse(document.getElementById('run-data').textContent).steps.length"
    )
    for _ in range(count):
        found = page.evaluate(MEASURE)
        where = f"{title} at {found['step']}"
        assert found["small"] == 0, f"too small to be pressed in gloves: {where}"
        assert found["least"] >= 10.9, f"a drawing's text is too small: {where}"
        assert width > 360 or found["foot"] <= 80, where
        if found["hole"]:
            so_far = holes.setdefault(found["hole"], [0, 0])
            holes[found["hole"]] = [so_far[0] + found["taps"], so_far[1] + found["scrolls"]]
        page.keyboard.press(".")
    if not holes:
        return
    assert max(taps for taps, _ in holes.values()) <= MOST_TAPS, f"{title}: {holes}"
    assert max(scrolls for _, scrolls in holes.values()) <= MOST_SCROLLS[width], f"{title}: {holes}"


def test_one_tap_closes_a_step_with_its_proofs(person: People) -> None:
    """The button names them; a signature is still given proof by proof."""
    page = person("technician", 360, 740, touch=True)
    start_at(page, "Tug 14", FRONT, "connect/coil/2/connector")
    button = page.locator("[data-confirm]")
    expect(button).to_contain_text("Click heard or felt · Light tug holds")
    button.tap()
    assert closed(page)[-1] == "connect/coil/2/connector"
    [done] = [e for e in entries(page) if e["entry"]["step"] == "connect/coil/2/connector"]  # type: ignore[index]
    assert done["entry"]["checks"] == ["click", "tug"]  # type: ignore[index]


SMALL = """() => {
  const pressed = "main a, main button, main summary, main input:not([type=hidden])";
  return [...document.querySelectorAll(pressed)]
    .filter((at) => at.offsetParent && !at.closest("svg, .visually-hidden"))
    .map((at) => [(at.closest("label") ?? at).getBoundingClientRect().height, at.outerHTML])
    .filter(([height]) => height < 43.5);
}"""
TEXT_SIZES = """all => all
  .filter((e) => e.offsetParent && !e.closest("svg"))
  .filter((e) => [...e.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim()))
  .map((e) => parseFloat(getComputedStyle(e).fontSize))"""


def test_lists_and_floor_have_targets_for_gloves(person: People) -> None:
    """Nothing to be pressed under 44 pixels, and no text under 16 in the list of runs."""
    page, lead = person("technician", 820, 1180, touch=True), person("lead", 820, 1180, touch=True)
    start_at(page, "Tug 14", FRONT, "ready/battery")
    write_reading(page, "volts", "11.8")
    card(page).locator(".deviate .pick").first.tap()
    expect(page.locator("#sent")).to_have_text("All sent")
    for at in ("/bay", "/floor"):
        lead.goto(at)
        assert lead.evaluate(SMALL) == [], at
        sizes = lead.eval_on_selector_all("main *", TEXT_SIZES)
        assert min(sizes) >= 16, at
    phone = person("lead", 360, 740, touch=True)
    for at in ("/bay", "/floor", "/open", "/units", "/log", "/due", "/week?week=2026-W51"):
        phone.goto(at)
        assert phone.evaluate(SMALL) == [], at
        assert min(phone.eval_on_selector_all("body *", TEXT_SIZES)) >= 16, at
        assert phone.evaluate("document.documentElement.scrollWidth") <= 360, at
        assert phone.locator("h1").count() == phone.locator("main").count() == 1
