"""A photo of the engine is taken in, its holes clicked at, and it lies straight under the plan."""

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import People
from tests.builders import tug
from tests.web.test_underlay import a_photo, camera

pytestmark = pytest.mark.browser
HERE = """([x, y]) => {
  const svg = document.querySelector("[data-underlay]");
  const at = new DOMPoint(x, y).matrixTransform(svg.getScreenCTM());
  return [at.x, at.y];
}"""


def _mark(page: Page, hole: str) -> None:
    """Click on a hole in the photo."""
    page.mouse.click(*page.evaluate(HERE, list(camera(*tug().holes[hole][1].at))))


def test_a_photo_is_marked_laid_and_shown_or_hidden(person: People) -> None:
    """Each click asks for the next place; the photo is seen on the board, on the plan if wanted."""
    page = person("trainer")
    page.goto("/engines/marlet-34-v6?c=3&work=plug&variant=late")
    csrf = page.locator("body").get_attribute("data-csrf") or ""
    page.request.post("/engines/marlet-34-v6/capture", form={"csrf": csrf})
    page.goto("/capture/marlet-34-v6")
    page.get_by_text("A photo of the engine under the drawing").click()
    photo = {"name": "engine.jpg", "mimeType": "image/jpeg", "buffer": a_photo()}
    page.set_input_files("[name=photo]", files=[photo])  # type: ignore[list-item]
    page.get_by_role("button", name="Take it in and mark it").click()
    expect(page.get_by_role("radio", name="hole 1")).to_be_checked()
    for hole in ("1", "2", "3", "4", "5", "6"):
        expect(page.get_by_role("radio", name=f"hole {hole}")).to_be_checked()
        _mark(page, hole)
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
    number = page.locator("[data-capture]").get_attribute("data-number") or ""
    page.request.post("/capture/marlet-34-v6/discard", form={"csrf": csrf, "number": number})
