"""The trainer puts a step elsewhere by keyboard and is told what forbids the other place."""

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import People

pytestmark = pytest.mark.browser
STAYS = "li[id='release/rear-stays/bolts']"


def test_move_a_step_and_be_told_what_forbids_another(person: People) -> None:
    """One earlier, then an impossible place: the hindrance stands at the step, in view.

    An opening is plugged right after what opens it: what stood after both comes before both.
    """
    page = person("trainer")
    page.goto("/engines/marlet-34-v6?c=5&work=coil&work=plug")
    page.get_by_role("button", name="Make the procedure").click()
    page.wait_for_url("**/procedures/**")
    page.goto(f"{page.url}#{STAYS[7:-2]}")
    before = number(page, STAYS)
    opened(page, STAYS).get_by_role("button", name="one earlier").press("Enter")
    expect(page.locator(STAYS)).to_contain_text("moved")
    assert number(page, STAYS) == before - 2
    lift = "li[id='remove/rear-stays']"
    expect(page.locator(lift)).to_be_visible()
    here = number(page, lift)
    step = opened(page, lift)
    step.get_by_label("or right after").select_option("remove/plenum")
    step.get_by_role("button", name="Put it there").press("Enter")
    told = page.get_by_role("alert")
    expect(told).to_contain_text("over a fastener of the intake plenum")
    expect(told).to_be_in_viewport()
    expect(told).to_be_focused()
    expect(page.locator(lift).get_by_role("button", name="Put it there")).to_be_visible()
    assert number(page, lift) == here


def opened(page: Page, step: str) -> Locator:
    """The step with its forms open."""
    found = page.locator(step)
    found.locator(".edit-step > summary").press("Enter")
    return found


def number(page: Page, step: str) -> int:
    """Where the step stands."""
    return int(page.locator(step).get_attribute("value") or 0)
