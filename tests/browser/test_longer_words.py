"""Every page with words 40 % longer: nothing is cut off, and no page grows too wide."""

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import People
from tests.pages import PAGES

pytestmark = pytest.mark.browser
SIZES = [(1280, 800), (820, 1180), (360, 740)]
LENGTHEN = r"""() => {
  const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  const texts = [];
  while (walk.nextNode()) texts.push(walk.currentNode);
  const longer = (word) => word + word.slice(0, Math.ceil(word.length * 0.4));
  for (const text of texts)
    if (!text.parentElement.closest("script, style, svg, code"))
      text.data = text.data.replace(/\p{L}{3,}/gu, longer);
}"""
# What a finger scrolls by itself is no cut; what hides what runs over its edge is.
CUT = r"""() => {
  const cut = [];
  const root = document.documentElement;
  if (root.scrollWidth > root.clientWidth + 1) cut.push("the page is wider than the screen");
  const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walk.nextNode()) {
    const text = walk.currentNode;
    const inside = text.parentElement;
    const unseen = "svg, script, style, .visually-hidden, option, [hidden]";
    if (!text.data.trim() || inside.closest(unseen) || !inside.checkVisibility()) continue;
    const range = document.createRange();
    range.selectNodeContents(text);
    const box = range.getBoundingClientRect();
    if (box.width && isCut(inside, box)) cut.push(text.data.trim().slice(0, 60));
  }
  function isCut(element, box) {
    for (let e = element; e && e !== document.body; e = e.parentElement) {
      const { overflowX, overflowY } = getComputedStyle(e);
      const edge = e.getBoundingClientRect();
      const wide = box.right > edge.right + 2 || box.left < edge.left - 2;
      if (/hidden|clip/.test(overflowX) && wide) return true;
      if (/hidden|clip/.test(overflowY) && box.bottom > edge.bottom + 2) return true;
      if (/auto|scroll/.test(overflowX)) return false;
      if (e.matches("button, .btn-big, .btn-line, td, th, .pick") && box.right > edge.right + 2)
        return true;
    }
    return false;
  }
  return [...new Set(cut)];
}"""


@pytest.mark.parametrize(("width", "height"), SIZES)
def test_nothing_is_cut_where_words_are_longer(person: People, width: int, height: int) -> None:
    """On a desk, a tablet and a phone."""
    page = person("trainer", width, height)
    found = {}
    for address in (*PAGES, _first(page, "/procedures"), _first(page, "/log")):
        page.goto(address)
        page.evaluate(LENGTHEN)
        cut = page.evaluate(CUT)
        if cut:
            found[address] = cut
    assert not found


@pytest.mark.parametrize(("width", "height"), SIZES)
def test_nothing_is_cut_on_the_board_with_everything_unfolded(
    person: People, width: int, height: int
) -> None:
    """A part in hand with its ways, hindrances and facts, and the facts of the engine."""
    page = person("trainer", width, height)
    page.goto("/engines/kestwick-900-twin?c=1&work=plug")
    csrf = page.locator("body").get_attribute("data-csrf") or ""
    page.request.post("/engines/kestwick-900-twin/capture", form={"csrf": csrf})
    page.goto("/capture/kestwick-900-twin?part=tank")
    page.evaluate("document.querySelectorAll('#capture details').forEach(one => one.open = true)")
    expect(page.get_by_text("Looking through the other sheets")).to_have_count(0)
    page.evaluate(LENGTHEN)
    cut = page.evaluate(CUT)
    number = page.locator("#capture").get_attribute("data-number") or ""
    page.request.post("/capture/kestwick-900-twin/discard", form={"csrf": csrf, "number": number})
    assert not cut


def _first(page: Page, address: str) -> str:
    page.goto(address)
    return page.locator("tbody a").first.get_attribute("href") or ""
