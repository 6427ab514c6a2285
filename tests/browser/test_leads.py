"""Leads in Chromium: the order tapped tower by tower, a crossed pair found and put right."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import People
from tests.browser.hands import faults

pytestmark = pytest.mark.browser
PAGE = "/engines/fendrake-50-marine-v8/leads"


@pytest.mark.parametrize(("width", "height"), [(820, 1180), (360, 740)])
def test_a_crossed_pair_is_found_and_put_right(person: People, width: int, height: int) -> None:
    """By touch; the next tower comes by itself, a tower is said anew, and back goes back."""
    page = person("technician", width, height, touch=True)
    page.goto(PAGE)
    told = page.locator(".ring-next")

    def tap(*holes: str) -> None:
        for hole in holes:
            before = told.inner_text()
            page.locator(f".ring-plan a[data-key='{hole}']").tap()
            expect(told).not_to_have_text(before)

    tap("1", "8", "3", "4", "6", "5", "7", "2")
    verdict = page.locator(".ring-verdict")
    expect(verdict).to_contain_text("Leads of 3 and 4 are crossed")
    expect(page.locator(".lead-ring .wrong")).to_have_count(2)
    assert not faults(page)
    page.locator(".lead-ring a[data-key='tower-3']").tap()
    expect(told).to_contain_text("Tower 3")
    tap("4")
    expect(told).to_contain_text("Tower 4")
    tap("3")
    expect(verdict).to_contain_text("Every lead is on its tower")
    page.go_back()
    expect(verdict).to_contain_text("Not every tower was looked at")


def test_a_double_tap_says_one_tower(person: People) -> None:
    """The tower that comes next is not said by it."""
    page = person("technician")
    page.goto(PAGE)
    page.locator(".ring-plan a[data-key='1']").dblclick()
    expect(page.locator(".ring-next")).to_contain_text("Tower 2")
    page.wait_for_timeout(600)
    expect(page.locator(".ring-next")).to_contain_text("Tower 2")
    expect(page.locator(".lead-ring .hole-there")).to_have_text("1")


def test_a_heap_with_one_too_short_says_what_to_get(person: People) -> None:
    """Typed once; the order beside it stays."""
    page = person("trainer")
    page.goto(f"{PAGE}?found=1: 1; 2: 8")
    lengths = ("410", "430", "420", "450", "280", "250", "240", "90", "160")
    heap = "; ".join(f"{name}: {length} mm" for name, length in enumerate(lengths, start=1))
    page.get_by_label("What lies on the bench").fill(heap)
    page.get_by_role("button", name="Match them").click()
    expect(page.locator(".lacks")).to_contain_text("short: get")
    expect(page.locator(".heap-beside .said-of", has_text="−")).to_have_count(1)
    expect(page.locator(".take li")).to_have_count(8)
    expect(page.locator(".ring-next")).to_contain_text("Tower 3")
    assert not faults(page)
