"""Leads in Chromium: the order tapped tower by tower, a crossed pair found and put right."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import People
from tests.browser.hands import faults

pytestmark = pytest.mark.browser
PAGE = "/engines/fendrake-50-marine-v8/leads"


@pytest.mark.sweep(1)
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


def test_the_way_of_a_lead_is_drawn_on_the_board(person: People) -> None:
    """Taken in hand, a holder put on by dragging, moved by keys and taken off; undone."""
    page = person("trainer")
    page.goto("/engines/ostler-16-flat-four")
    page.get_by_role("button", name="Change the drawing").click()
    page.locator("[data-edit='lead/3']").focus()
    page.keyboard.press("Enter")
    told = page.locator(".in-hand-part")
    expect(told).to_contain_text("Lead of hole 3")
    holders = page.locator(".holder")
    expect(holders).to_have_count(1)
    drawn = told.locator("p").inner_text()
    mark = page.locator(".between").first.bounding_box()
    assert mark
    page.mouse.move(mark["x"] + 4, mark["y"] + 4)
    page.mouse.down()
    page.mouse.move(mark["x"] + 30, mark["y"] + 60, steps=4)
    page.mouse.up()
    expect(holders).to_have_count(2)
    expect(told.locator("p")).not_to_have_text(drawn)
    longer = told.locator("p").inner_text()
    holders.first.focus()
    page.keyboard.press("ArrowUp")
    expect(told.locator("p")).not_to_have_text(longer)
    assert not faults(page)
    holders.first.focus()
    page.keyboard.press("Delete")
    expect(holders).to_have_count(1)
    told.get_by_label("Measured").fill("41 cm")
    told.get_by_role("button", name="Keep").click()
    expect(told).to_contain_text("410 mm, as measured")
    page.locator("[data-capture-key=z]").click()
    expect(told).to_contain_text("as drawn")
    page.goto("/engines")
