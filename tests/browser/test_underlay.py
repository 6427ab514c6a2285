"""A photo of the engine is taken in, its holes clicked at, and it lies straight under the plan."""

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import People
from tests.builders import tug
from tests.web.test_underlay import a_photo, camera

pytestmark = pytest.mark.browser
HERE = """(svg, [x, y]) => {
  const at = new DOMPoint(x, y).matrixTransform(svg.getScreenCTM());
  const box = svg.getBoundingClientRect();
  return { x: at.x - box.x - svg.clientLeft, y: at.y - box.y - svg.clientTop };
}"""


def mark(page: Page, across: float, down: float) -> None:
    """Click on a place of the photo, given in its pixels."""
    photo = page.locator("[data-underlay]")
    photo.click(position=photo.evaluate(HERE, [across, down]))


def _to_the_photo(page: Page) -> str:
    """Take a photo of the vee six in, to be marked; returns the token of its writes."""
    page.goto("/engines/marlet-34-v6?c=3&work=plug&variant=late")
    csrf = page.locator("body").get_attribute("data-csrf") or ""
    page.request.post("/engines/marlet-34-v6/capture", form={"csrf": csrf})
    page.goto("/capture/marlet-34-v6")
    page.get_by_text("A photo of the engine under the drawing").click()
    photo = {"name": "engine.jpg", "mimeType": "image/jpeg", "buffer": a_photo()}
    page.set_input_files("[name=photo]", files=[photo])  # type: ignore[list-item]
    return csrf


def _discarded(page: Page, csrf: str) -> None:
    """Leave the engine as it was found."""
    number = page.locator("[data-capture]").get_attribute("data-number") or ""
    page.request.post("/capture/marlet-34-v6/discard", form={"csrf": csrf, "number": number})


def test_a_photo_is_marked_laid_and_shown_or_hidden(person: People) -> None:
    """Each click asks for the next place; the photo is seen on the board, on the plan if wanted."""
    page = person("trainer")
    csrf = _to_the_photo(page)
    page.get_by_role("button", name="Take it in and mark it").click()
    expect(page.get_by_role("radio", name="hole 1")).to_be_checked()
    for hole in ("1", "2", "3", "4", "5", "6"):
        expect(page.get_by_role("radio", name=f"hole {hole}")).to_be_checked()
        mark(page, *camera(*tug().holes[hole][1].at))
    expect(page.locator(".mark")).to_have_count(6)
    page.get_by_role("button", name="Lay it under the drawing").click()
    shown = page.locator(".board .plan-photo")
    expect(shown).to_be_visible()
    toggle = page.get_by_role("button", name="Photo", exact=True)
    expect(toggle).to_have_attribute("aria-pressed", "true")
    toggle.click()
    expect(shown).to_be_hidden()
    page.get_by_role("button", name="Undo: photo").click()
    expect(page.locator(".board .plan-photo")).to_have_count(0)
    _discarded(page, csrf)


def test_over_a_slow_link_the_first_click_in_the_photo_marks(person: People) -> None:
    """A page is not to be seen before it listens: what is clicked on is not lost."""
    page = person("trainer")
    csrf = _to_the_photo(page)
    link = page.context.new_cdp_session(page)
    slow = {"offline": False, "latency": 1500, "downloadThroughput": -1, "uploadThroughput": -1}
    link.send("Network.enable")
    link.send("Network.emulateNetworkConditions", slow)
    page.get_by_role("button", name="Take it in and mark it").click()
    mark(page, *camera(*tug().holes["1"][1].at))
    expect(page.locator(".mark")).to_have_count(1)
    link.send("Network.emulateNetworkConditions", slow | {"latency": 0})
    page.goto("/capture/marlet-34-v6")
    _discarded(page, csrf)
