"""Every page: accessible as axe sees it, and with words 40 % longer nothing cut off or too wide."""

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import People
from tests.browser.hands import faults
from tests.pages import PAGES

pytestmark = pytest.mark.browser
SIZES = [(1280, 800), (820, 1180), (360, 740)]
# So many tests share the pages, so that workers do.
SHARES = 4
# Of these kinds there is more than one look.
ALSO = ("/engines/marlet-34-v6", "/api", "/sums?sum=cooling", "/engines/sulair-750-triple/figures")
FIRSTS = ("the first of /procedures", "the first of /log")
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


def cut_at_each_size(page: Page) -> list[tuple[int, str]]:
    """What is cut off on a desk, a tablet and a phone: the page turns, it is not fetched again."""
    found: list[tuple[int, str]] = []
    for width, height in SIZES:
        page.set_viewport_size({"width": width, "height": height})
        found += [(width, words) for words in page.evaluate(CUT)]
    page.set_viewport_size({"width": 1280, "height": 800})
    return found


@pytest.mark.sweep(2)
@pytest.mark.parametrize("share", range(SHARES))
def test_every_page_is_accessible_and_bears_longer_words(person: People, share: int) -> None:
    """One look at each kind of page, by axe and then with every word lengthened."""
    page = person("trainer")
    found = {}
    for address in (*PAGES, *ALSO, *FIRSTS)[share::SHARES]:
        page.goto(_first(page, address.split()[-1]) if " " in address else address)
        serious = faults(page)
        page.evaluate(LENGTHEN)
        if wrong := [*serious, *cut_at_each_size(page)]:
            found[address] = wrong
    assert not found


def test_nothing_is_cut_on_the_board_with_everything_unfolded(person: People) -> None:
    """A part in hand with its ways, hindrances and facts, and the facts of the engine."""
    page = person("trainer")
    page.goto("/engines/kestwick-900-twin?c=1&work=plug")
    csrf = page.locator("body").get_attribute("data-csrf") or ""
    page.request.post("/engines/kestwick-900-twin/capture", form={"csrf": csrf})
    page.goto("/capture/kestwick-900-twin?part=tank")
    page.evaluate("document.querySelectorAll('#capture details').forEach(one => one.open = true)")
    expect(page.get_by_text("Looking through the other sheets")).to_have_count(0)
    page.evaluate(LENGTHEN)
    cut = cut_at_each_size(page)
    number = page.locator("#capture").get_attribute("data-number") or ""
    page.request.post("/capture/kestwick-900-twin/discard", form={"csrf": csrf, "number": number})
    assert not cut


def _first(page: Page, address: str) -> str:
    page.goto(address)
    return page.locator("tbody a").first.get_attribute("href") or ""
