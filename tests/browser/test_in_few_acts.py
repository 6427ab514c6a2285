"""How many acts an engine takes: from its photograph to a released procedure, and from a sister."""

import io
import re

import numpy as np
import pytest
from PIL import Image, ImageDraw
from playwright.sync_api import expect

from eldrim.core.capture.shapes import BY_KEY, Beginning, start
from tests.browser.conftest import People
from tests.browser.test_capture import Hands, begun, released, state, state_plug
from tests.browser.test_underlay import mark

pytestmark = pytest.mark.browser
MOST_FROM_A_PHOTO, MOST_FROM_A_SISTER = 100, 25
SIX = start(BY_KEY["vee-six"], Beginning("x", "Tarn", "six", "aluminium", "road"))
# How the camera stood: a little turned, leaning.
LAID = np.array([[0.9, -0.1, 30.0], [0.08, 0.95, -20.0], [8e-5, -6e-5, 1.0]])


def seen(x: float, y: float) -> tuple[float, float]:
    """Where a place of the plan is in the photo, in pixels."""
    across, down, far = np.linalg.inv(LAID) @ (x, y, 1)
    return float(across / far), float(down / far)


def a_photo() -> bytes:
    """The holes of a vee six as dark rings."""
    picture = Image.new("RGB", (820, 820), (180, 178, 170))
    pen = ImageDraw.Draw(picture)
    for _, well in SIX.holes.values():
        x, y = seen(*well.at)
        pen.ellipse((x - 14, y - 14, x + 14, y + 14), outline=(30, 30, 30), width=5)
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=92)
    return out.getvalue()


def test_a_vee_six_from_its_photograph_to_a_released_procedure(person: People) -> None:
    """Plenum, throttle, duct, loom, stays and cover, traced, held, answered, sourced, released."""
    page = person("trainer")
    hands = Hands(page)
    begun(hands, "3.0 vee six", "vee-six")
    _photo(hands)
    _plenum(hands)
    _throttle_duct_loom_stays(hands)
    _coil(hands)
    hands.click("button:has-text('Keep it, and on to the figures')")
    page.wait_for_url(re.compile("/figures"))
    _figures(hands)
    hands.click("a:has-text('To the plan')")
    hands.click("a[data-key='1']")
    moved = page.locator("#moves li")
    expect(page.locator("#moves li[data-part=plenum]")).to_have_count(1)
    kinds = moved.evaluate_all("all => all.map(e => e.dataset.part)")
    assert {"plenum", "throttle-body", "duct", "bracket", "cover"} <= set(kinds), kinds
    hands.click("button:has-text('Make the procedure')")
    page.wait_for_url(re.compile("/procedures/"))
    hands.fill("#reason", "first edition")
    hands.click("button:has-text('Release edition 1')")
    page.wait_for_url(re.compile("/editions/"))
    expect(page.locator("h1")).to_contain_text("hole 1")
    print(f"interactions: {hands.done}")
    assert hands.done <= MOST_FROM_A_PHOTO


def _photo(hands: Hands) -> None:
    """Taken in, four holes clicked at, laid straight under the drawing."""
    page = hands.page
    hands.click("summary:has-text('A photo of the engine')")
    photo = {"name": "engine.jpg", "mimeType": "image/jpeg", "buffer": a_photo()}
    page.set_input_files("[name=photo]", files=[photo])  # type: ignore[list-item]
    hands.done += 1
    hands.click("button:has-text('Take it in and mark it')")
    for hole in ("1", "2", "3", "4"):
        expect(page.get_by_role("radio", name=f"hole {hole}")).to_be_checked()
        mark(page, *seen(*SIX.holes[hole][1].at))
        hands.done += 1
    hands.click("button:has-text('Lay it under the drawing')")
    expect(page.locator(".board .plan-photo")).to_be_visible()


def _answer(hands: Hands, *keys: str) -> None:
    """Answer what the drawing asks, a key each."""
    for key in keys:
        hands.key(key)


def _plenum(hands: Hands) -> None:
    """Over the rear bank, with its bolts, gaskets and hose."""
    hands.act(".palette button[value=plenum]")
    hands.drag("[data-edit=plenum] .outline", 0, -70)
    hands.joint("6 hex bolts 10 mm 16 to 20 Nm")
    hands.joint("2 gaskets one-time")
    hands.joint("spring-clamp hose vacuum")


def _throttle_duct_loom_stays(hands: Hands) -> None:
    """Held as on the shop's other vee six; nothing of it is typed."""
    page = hands.page
    for kind, by, like in (
        ("throttle_body", (130, -60), "Throttle body"),
        ("duct", (190, -60), "Intake duct"),
        ("loom", (-90, 10), "Engine loom"),
        ("bracket", (-60, -105), "Rear stays"),
    ):
        hands.act(f".palette button[value={kind}]")
        # A loom is drawn by its way: one end is pulled over the holes.
        hold = (
            "circle.holder[data-of=part] >> nth=0" if kind == "loom" else ".part.selected .outline"
        )
        hands.drag(hold, *by)
        hands.click("summary:has-text('As on another engine')")
        offer = page.locator(".offer", has_text="Marlet").filter(has_text=like)
        before = hands.number()
        offer.get_by_role("button", name="hold it just so").click()
        hands.done += 1
        expect(page.locator("#capture")).not_to_have_attribute("data-number", before)
        if like == "Throttle body":
            _new_number(hands, "TG-30")
    _answer_all(hands)


def _new_number(hands: Hands, number: str) -> None:
    """The number of a gasket is its maker's own: the other's is not taken over."""
    page = hands.page
    row = page.locator(".joints li", has_text="gasket").first
    row.locator("summary").click()
    field = row.locator("input[name=joint]")
    expect(field).to_have_value(re.compile('#"to be stated"'))
    before = hands.number()
    field.fill(f"gasket one-time #{number}")
    row.get_by_role("button", name="Keep").click()
    hands.done += 3
    expect(page.locator("#capture")).not_to_have_attribute("data-number", before)


def _answer_all(hands: Hands) -> None:
    """Covers and the plenum hide; the rest bars a way out, a tool or slack."""
    question = hands.page.locator(".question")
    while question.count():
        keys = question.locator("button").evaluate_all("all => all.map(e => e.dataset.captureKey)")
        hiding = question.inner_text().startswith(("Cover", "Plenum"))
        hands.key("h" if hiding else next(key for key in "ebs" if key in keys))


def _coil(hands: Hands) -> None:
    hands.click("summary:has-text('The coil on each plug')")
    hands.fill("details[open] form[action$='/carrier'] input[name=part_number]", "C-30-1")
    hands.click("button:has-text('State it')")
    expect(hands.page.locator("summary", has_text="The coil on each plug")).not_to_contain_text(
        "to be stated"
    )


def _figures(hands: Hands) -> None:
    """Torque, gap, battery and plug from the manual; one source for what was held as elsewhere."""
    state(hands, "plug-torque", "25-30 Nm", "3-12", new=True)
    state(hands, "plug-gap", "0,7-0,8 mm", "3-11")
    state(hands, "battery-rest", "12.3-12.9 V", "8-1")
    hands.click("summary:has-text('State one source for many')")
    many = "form[action$='/figures/source']"
    hands.choose(f"{many} select[name=source]", "tarn-manual")
    hands.fill(f"{many} input[name=page]", "2-4")
    hands.click(f"{many} button:has-text('State the source')")
    expect(hands.page.locator("#plenum-bolt")).to_contain_text("p. 2-4")
    state_plug(hands)


def test_a_sister_engine_from_a_copy_to_a_released_procedure(person: People) -> None:
    """The same maker's: its facts hold; one figure is another, and one part is not there."""
    page = person("trainer")
    hands = Hands(page)
    page.goto("/engines/new")
    hands.fill("input[name=make]", "Marlet")
    hands.fill("input[name=name]", "3.6 vee six, across")
    hands.choose("select[name=of]", "marlet-34-v6")
    hands.click("button:has-text('Start from the copy')")
    page.wait_for_url(re.compile("/capture/marlet-3-6"))
    hands.click("summary:has-text('All ')")
    hands.click(".part-list a:has-text('Sound cover')")
    hands.act("button:has-text('Take it off the sheet')")
    hands.click("button:has-text('Keep it, and on to the figures')")
    page.wait_for_url(re.compile("/figures"))
    hands.click("summary:has-text('Change')", within="#plug-gap")
    hands.fill("#plug-gap details[open] input[name=value]", "0.9 to 1.0 mm")
    hands.click("#plug-gap details[open] button:has-text('Keep')")
    expect(page.locator("#plug-gap")).to_contain_text("0.9 to 1.0 mm")
    hands.click("a:has-text('To the plan')")
    hands.click("a[data-key='3']")
    expect(page.locator("#moves li[data-part=plenum]")).to_have_count(1)
    hands.click("button:has-text('Make the procedure')")
    page.wait_for_url(re.compile("/procedures/"))
    released(hands, "hole 3")
    print(f"interactions: {hands.done}")
    assert hands.done <= MOST_FROM_A_SISTER
