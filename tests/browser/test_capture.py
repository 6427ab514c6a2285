"""A new engine from a shape to a released procedure, through the interface alone."""

import re
from contextlib import suppress

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import People

pytestmark = pytest.mark.browser
MOST_INTERACTIONS = 120


class Hands:
    """Does what a trainer does, and counts it: a click, a key, a drag, a field filled is one."""

    def __init__(self, page: Page) -> None:
        """Nothing done yet."""
        self.page, self.done = page, 0

    def click(self, target: str, *, within: str = "body") -> None:
        """Click on something by its selector."""
        self.done += 1
        self.page.locator(within).locator(target).first.click()

    def fill(self, target: str, text: str) -> None:
        """Fill one field."""
        self.done += 1
        self.page.locator(target).first.fill(text)

    def choose(self, target: str, value: str) -> None:
        """Choose from a list."""
        self.done += 1
        self.page.locator(target).first.select_option(value)

    def key(self, key: str) -> None:
        """Press one key on the drawing until the act is kept; each press counts."""
        before = self.number()
        # A question that has just come up can be read before a key answers it.
        for _ in range(3):
            self.page.wait_for_timeout(650)
            self.page.keyboard.press(key)
            self.done += 1
            with suppress(AssertionError):
                expect(self.page.locator("#capture")).not_to_have_attribute(
                    "data-number", before, timeout=4000
                )
                return
        raise AssertionError(f"'{key}' does nothing")

    def act(self, target: str) -> None:
        """Click on something that changes the drawing."""
        before = self.number()
        self.click(target)
        expect(self.page.locator("#capture")).not_to_have_attribute("data-number", before)

    def drag(self, target: str, dx: float, dy: float) -> None:
        """Take hold of something on the plan and put it elsewhere."""
        self.done += 1
        before = self.number()
        box = self.page.locator(target).bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + dx / 2, y + dy / 2)
        self.page.mouse.move(x + dx, y + dy)
        self.page.mouse.up()
        expect(self.page.locator("#capture")).not_to_have_attribute("data-number", before)

    def number(self) -> str:
        """The state of the drawing on the screen."""
        return self.page.locator("#capture").get_attribute("data-number") or ""

    def joint(self, words: str) -> None:
        """Hold the part in hand by one more joint."""
        self.fill("#joint", words)
        expect(self.page.locator("#understood")).to_contain_text("back when:")
        self.act(".joint-line:has(#joint) button")


def begun(hands: Hands, name: str, shape: str) -> None:
    """Begin the capture of an engine of a shape, made by Tarn."""
    hands.page.goto("/engines/new")
    hands.fill("input[name=make]", "Tarn")
    hands.fill("input[name=name]", name)
    hands.click(f"button[value={shape}]")
    hands.page.wait_for_url(re.compile("/capture/tarn-"))


def test_from_a_shape_to_a_released_procedure(person: People) -> None:
    """An inline four with a cover and a duct over its last hole, in few interactions."""
    page = person("trainer")
    hands = Hands(page)
    _draw(hands)
    _source(hands)
    _release(hands)
    print(f"interactions: {hands.done}")
    assert hands.done <= MOST_INTERACTIONS


def test_an_obstructed_rear_bank_from_a_shape_to_a_released_procedure(person: People) -> None:
    """A vee four: a cover, a plenum over the rear bank, and a duct that has to be off before it."""
    page = person("trainer")
    hands = Hands(page)
    begun(hands, "2.4 vee four", "vee-four")
    hands.act(".palette button[value=plenum]")
    hands.drag("[data-edit=plenum] .outline", 0, -70)
    hands.joint("4 hex bolts 10 mm 9 Nm")
    hands.joint("gasket one-time")
    hands.joint("press-tab connector")
    hands.key("h")
    hands.act(".palette button[value=duct]")
    hands.drag("[data-edit=duct] .outline", 110, -70)
    hands.joint("2 screw-clamp hoses air")
    hands.key("h")
    while page.locator(".question").count():
        hands.key("e")
    _coil(hands)
    hands.click("button:has-text('Keep it, and on to the figures')")
    page.wait_for_url(re.compile("/figures"))
    _source(hands, "plenum-bolt")
    hands.click("a:has-text('To the plan')")
    hands.click("a[data-key='2']")
    expect(page.locator("h1")).to_have_text("Plug and coil, hole 2")
    expect(page.locator("#moves li[data-part=plenum]")).to_have_count(0)
    hands.click("a[data-key='1']")
    expect(page.locator("h1")).to_have_text("Plug and coil, holes 1 and 2")
    expect(page.locator("#moves li[data-part=plenum]")).to_contain_text("over plug 1")
    moved = page.locator("#moves li").evaluate_all("all => all.map(e => e.dataset.part)")
    assert moved.index("duct") < moved.index("plenum"), "the duct is off before the plenum"
    hands.click("button:has-text('Make the procedure')")
    page.wait_for_url(re.compile("/procedures/"))
    page.get_by_label("Step by step: Set the plenum in place").click()
    expect(page.locator('[id="renew/plenum/gasket"]')).to_be_visible()
    released(hands, "holes 1 and 2")
    print(f"interactions: {hands.done}")
    assert hands.done <= MOST_INTERACTIONS


def _draw(hands: Hands) -> None:
    page = hands.page
    begun(hands, "1.6 inline four", "inline-four")
    hands.act(".palette button[value=duct]")
    hands.drag("[data-edit=duct] .outline", 150, 0)
    hands.joint("2 screw-clamp hoses air")
    hands.joint("2 hex bolts 10 mm 9 Nm")
    hands.key("b")
    hands.key("e")
    expect(page.locator(".question")).to_have_count(0)
    expect(page.locator(".lacking")).to_contain_text("the plug: no source stated")
    _coil(hands)
    hands.click("button:has-text('Keep it, and on to the figures')")
    page.wait_for_url(re.compile("/engines/tarn-1-6-inline-four/figures"))


def _source(hands: Hands, bolt: str = "duct-bolt") -> None:
    """The plug, its torque and gap, and the bolts of what was put on, from the manual."""
    page = hands.page
    state(hands, "plug-torque", "25-30 Nm", "3-12", new=True)
    state(hands, "plug-gap", "0,7-0,8 mm", "3-11")
    hands.click("summary:has-text('Change')", within=f"#{bolt}")
    hands.choose(f"#{bolt} details[open] select[name=source]", "tarn-manual")
    hands.fill(f"#{bolt} details[open] input[name=page]", "2-4")
    hands.click(f"#{bolt} details[open] button:has-text('Keep')")
    expect(page.locator(f"#{bolt}")).to_contain_text("p. 2-4")
    state(hands, "battery-rest", "12.3-12.9 V", "8-1")
    state_plug(hands)


def _coil(hands: Hands) -> None:
    """The number of the coil, on the board."""
    hands.click("summary:has-text('The coil on each plug')")
    hands.fill("details[open] input[name=part_number]", "C-14-1")
    hands.click("button:has-text('State it')")
    expect(hands.page.locator("summary", has_text="The coil on each plug")).not_to_contain_text(
        "to be stated"
    )


def state_plug(hands: Hands) -> None:
    """Its number and heat range, with their source."""
    page = hands.page
    hands.click("summary:has-text('Change the plug')")
    for name, value in (("part_number", "T-14-5"), ("heat_range", "5"), ("page", "3-10")):
        hands.fill(f"details[open] .offer-form input[name={name}]", value)
    hands.choose("details[open] .offer-form select[name=source]", "tarn-manual")
    hands.click("details[open] .offer-form button:has-text('Keep')")
    expect(page.locator(".spec-side")).to_contain_text("Tarn manual, 1st, p. 3-10")


def state(hands: Hands, key: str, value: str, where: str, *, new: bool = False) -> None:
    """State a figure with its page, and the manual as a new source where it is the first."""
    row = f"#{key}"
    hands.click("summary:has-text('State it')", within=row)
    hands.fill(f"{row} details[open] input[name=value]", value)
    hands.fill(f"{row} details[open] input[name=page]", where)
    hands.choose(f"{row} details[open] select[name=source]", "new" if new else "tarn-manual")
    if new:
        hands.click("summary:has-text('Another source')", within=row)
        hands.fill(f"{row} input[name=document]", "Tarn manual")
        hands.fill(f"{row} input[name=edition]", "1st")
    hands.click(f"{row} details[open] button:has-text('Keep')")
    expect(hands.page.locator(row)).to_contain_text(f"Tarn manual, 1st, p. {where}")


def _release(hands: Hands) -> None:
    page = hands.page
    hands.click("a:has-text('To the plan')")
    hands.click("a[data-key='4']")
    expect(page.locator("#moves")).to_contain_text("Duct")
    hands.click("button:has-text('Make the procedure')")
    page.wait_for_url(re.compile("/procedures/"))
    expect(page.locator(".act-rows")).to_contain_text(["Tarn manual"])
    released(hands, "hole 4")


def released(hands: Hands, said: str) -> None:
    """Release the draft as its first edition."""
    hands.fill("#reason", "first edition")
    hands.click("button:has-text('Release edition 1')")
    hands.page.wait_for_url(re.compile("/editions/"))
    expect(hands.page.locator("h1")).to_contain_text(said)


def test_draw_by_keyboard_undo_and_be_told(person: People) -> None:
    """Arrows, size, turn, undo, do again; a line not understood changes nothing."""
    page = person("trainer")
    hands = Hands(page)
    page.goto("/engines/new")
    page.fill("input[name=make]", "Tarn")
    page.fill("input[name=name]", "single")
    page.click("button[value=single]")
    page.wait_for_url(re.compile("/capture/tarn-single"))
    hands.act(".palette button[value=bracket]")
    before = page.locator("[data-edit=bracket] .outline").get_attribute("d")
    for key in ("ArrowRight", "Shift+ArrowDown", "t"):
        hands.key(key)
    after = page.locator("[data-edit=bracket] .outline").get_attribute("d")
    assert before != after
    for _ in range(3):
        hands.key("z")
    assert page.locator("[data-edit=bracket] .outline").get_attribute("d") == before
    for _ in range(3):
        hands.key("y")
    assert page.locator("[data-edit=bracket] .outline").get_attribute("d") == after
    number = hands.number()
    page.fill("#joint", "4 hex bolts 10 mm frobbed")
    expect(page.locator("#understood")).to_contain_text("frobbed: is not understood")
    page.click(".joint-line:has(#joint) button")
    expect(page.locator(".refusal")).to_contain_text("frobbed")
    expect(page.locator("#joint")).to_have_value("4 hex bolts 10 mm frobbed")
    assert hands.number() == number
    page.reload()
    expect(page.locator("[data-edit=bracket]")).to_have_count(1)


def blank_four(page: Page, name: str) -> None:
    """Begin the capture of an inline four that nothing is known of yet."""
    page.goto("/engines/new")
    page.fill("input[name=make]", "Tarn")
    page.fill("input[name=name]", name)
    page.click("button[value=inline-four]")
    page.wait_for_url(re.compile(f"/capture/tarn-{name}"))


def test_the_keyboard_stays_where_the_work_is(person: People) -> None:
    """After a part is put on and held, a few tabs and not fifty lead to the next thing."""
    page = person("trainer")
    blank_four(page, "keys")
    hands = Hands(page)
    hands.act(".palette button[value=bracket]")
    where = "document.activeElement.id || document.activeElement.closest('.question')?.className"
    assert page.evaluate(where) in ("joint", "question")
    page.fill("#joint", "2 hex bolts 10 mm")
    page.keyboard.press("Enter")
    expect(page.locator(".joints").first).to_contain_text("2 bolts")
    assert page.evaluate(where) in ("joint", "question")
    hands.joint("gasket one-time")
    page.locator(".joints .change summary").first.click()
    hands.act(".joint-acts button:has-text('mark its places')")
    still = page.locator(".joints .change[open]")
    expect(still).to_have_count(1)
    expect(still.locator("input[name=joint]")).to_have_value(re.compile("hex bolts"))
    hands.act(".change[open] .joint-acts button:has-text('take away')")
    assert page.evaluate(where) in ("joint", "question"), "what was there has gone"


def test_a_refusal_stands_at_its_field_with_all_that_was_typed(person: People) -> None:
    """On the board and on a page's plain form: marked, described, under the cursor; then gone."""
    page = person("trainer")
    blank_four(page, "slips")
    page.locator("summary", has_text="Wells").click()
    page.fill("[name=room_above-3-0]", "12 kg")
    page.fill("[name=depth-2-0]", "95 mm")
    page.locator(".wells-form .btn-line").click()
    wrong = page.locator("[name=room_above-3-0]")
    expect(wrong).to_have_attribute("aria-invalid", "true")
    expect(wrong).to_be_focused()
    expect(wrong).to_have_accessible_description(re.compile("cylinder 3, room over: '12 kg'"))
    expect(page.locator("[name=depth-2-0]")).to_have_value("95 mm")
    page.keyboard.type("300 mm")
    expect(page.locator(".at-field")).to_have_count(0)
    page.locator(".wells-form .btn-line").click()
    expect(page.locator("[name=room_above-3-0]")).to_have_value("300 mm")

    page.goto("/engines/marlet-34-v6/figures?variant=late")
    form = page.locator("form[action$='/variants']").first
    form.evaluate("it => { for (let at = it; at; at = at.parentElement) at.open = true; }")
    form.locator("[name=year_from]").fill("99x")
    form.locator("button").first.click()
    year = page.locator("[name=year_from][aria-invalid]")
    expect(year).to_have_value("99x")
    expect(year).to_be_focused()
    expect(year).to_have_accessible_description(re.compile("'99x' is no year"))


def test_by_teardown_to_a_released_procedure(person: People) -> None:
    """Beside the engine: tap what comes off, open, back on; answer one question; release."""
    page = person("trainer", 820, 1180)
    page.goto("/engines/new")
    page.fill("input[name=make]", "Tarn")
    page.fill("input[name=name]", "torn down")
    page.click("button[value=inline-four]")
    page.wait_for_url(re.compile("/capture/tarn-torn-down"))
    page.get_by_role("link", name="Beside the engine").click()
    page.get_by_role("button", name="Start").click()
    _tap(page, "Cover")
    page.get_by_text("Something not drawn yet").click()
    page.locator("select[name=over]").select_option("4")
    page.locator(".pick[value=duct]").click()
    expect(page.locator(".where")).to_contain_text("3 taps")
    page.locator(".holes .pick[value='4']").click()
    page.get_by_text("Something not drawn yet").click()
    page.locator("[data-place-on] svg").click(position={"x": 30, "y": 30})
    expect(page.locator("[data-placed]")).to_contain_text("where you tapped")
    page.locator(".pick[value=bracket]").click()
    _tap(page, "Cover", there=False)
    page.get_by_role("link", name="All open").click()
    expect(page.locator(".question")).to_contain_text("Did the duct have to be off before the")
    page.get_by_role("button", name="Just started there").click()
    expect(page.locator(".question")).to_have_count(0)
    for name in ("Bracket", "Duct", "Cover"):
        page.locator(".pick", has_text=name).click()
    expect(page.get_by_text("Everything that came off is back")).to_be_visible()
    expect(page.locator(".teardown")).to_contain_text("Duct hides hole 4")
    page.get_by_role("button", name="Put it on the sheet").click()
    page.wait_for_url(re.compile("/capture/tarn-torn-down$"))
    hands = Hands(page)
    while page.locator(".question").count():
        hands.act(".question button[value=free]")
    hands.click("button:has-text('Keep it, and on to the figures')")
    page.wait_for_url(re.compile("/figures"))
    state(hands, "plug-torque", "25-30 Nm", "3-12", new=True)
    state_plug(hands)
    page.goto("/engines/tarn-torn-down?c=4&work=plug")
    expect(page.locator("#moves")).to_contain_text("Duct")
    expect(page.locator("#moves")).to_contain_text("Cover")
    page.get_by_role("button", name="Make the procedure").click()
    page.wait_for_url(re.compile("/procedures/"))
    expect(page.locator(".open-points")).to_contain_text("fallback")
    page.fill("#accepted", "bands looked at with the lead")
    page.fill("#reason", "first edition")
    page.get_by_role("button", name="Release edition 1").click()
    page.wait_for_url(re.compile("/editions/"))


def _tap(page: Page, name: str, *, there: bool = True) -> None:
    """Tap a part; or see that it cannot be tapped again."""
    button = page.locator(".picks .pick:visible", has_text=re.compile(f"^{name}$"))
    if not there:
        expect(button).to_have_count(0)
        return
    button.click()
    expect(button).to_have_count(0)


def test_an_outline_of_any_shape_by_pointer_and_by_keys(person: People) -> None:
    """A corner is dragged, one put on between two, one taken off by a key; a copy is mirrored."""
    page = person("trainer")
    hands = Hands(page)
    blank_four(page, "corners")
    page.wait_for_url(re.compile("/capture/tarn-corners"))
    hands.act(".palette button[value=cover]")
    outline = page.locator(".part.selected .outline")
    corners = page.locator("circle.holder[data-of=part]")
    expect(corners).to_have_count(4)
    before = outline.get_attribute("d") or ""
    hands.drag("circle.holder[data-of=part] >> nth=0", -40, -40)
    moved = outline.get_attribute("d") or ""
    assert moved != before
    assert moved.split(" L")[1:] == before.split(" L")[1:], "the other corners stay"
    hands.drag("circle.between[data-of=part] >> nth=0", 0, -30)
    expect(corners).to_have_count(5)
    page.locator("circle.holder[data-of=part]").nth(1).focus()
    hands.key("Delete")
    expect(corners).to_have_count(4)
    page.locator("circle.holder[data-of=part]").nth(0).focus()
    hands.key("ArrowDown")
    assert (outline.get_attribute("d") or "") != moved
    parts = page.locator("[data-edit]").count()
    hands.act("button:has-text('Mirror it to the other side')")
    expect(page.locator("[data-edit]")).to_have_count(parts + 1)
    expect(page.locator(".in-hand-part h2")).to_contain_text("other side")


def test_parts_corners_and_clips_are_dragged_by_a_finger(person: People) -> None:
    """On a tablet; the page does not scroll under what is held, and the plan beside it does."""
    page = person("trainer", 820, 1180, touch=True)
    blank_four(page, "finger")
    hands = Hands(page)
    hands.act(".palette button[value=loom]")
    hands.joint("2 clips")
    page.locator(".joints .change summary").first.click()
    hands.act("button:has-text('mark its places on the plan')")
    finger = page.context.new_cdp_session(page)

    def drag(target: str) -> None:
        before, box = hands.number(), page.locator(target).bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        for kind, at in (("Start", 0), ("Move", 15), ("Move", 40), ("End", None)):
            points = [] if at is None else [{"x": x + at, "y": y + at}]
            finger.send("Input.dispatchTouchEvent", {"type": f"touch{kind}", "touchPoints": points})
        expect(page.locator("#capture")).not_to_have_attribute("data-number", before)

    clip = page.locator("path.piece").first
    placed = clip.get_attribute("d")
    drag("path.piece >> nth=0")
    expect(clip).not_to_have_attribute("d", placed or "")
    way = page.locator(".part.selected .cable").get_attribute("d") or ""
    drag("circle.holder[data-of=part] >> nth=2")
    expect(page.locator(".part.selected .cable")).not_to_have_attribute("d", way)
    assert page.evaluate("scrollY") == 0
