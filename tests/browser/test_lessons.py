"""What the bays teach, in Chromium: a slow duct becomes another way in; a report is answered."""

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from eldrim.demo.process import DemoProcess
from eldrim.store.cluster import Cluster
from tests import databases
from tests.browser.conftest import PATIENCE, People
from tests.browser.hands import card, faults, start_at
from tests.conftest import address, copied

pytestmark = pytest.mark.browser
FRONT = "Plug and coil, holes 2, 4 and 6"


@pytest.fixture(scope="module")
def served(cluster: Cluster) -> Iterator[DemoProcess]:
    """The demo with its two years, served."""
    with copied(cluster, databases.years_template(cluster), "lessons") as engine:
        process = DemoProcess(url=address(engine))
        process.start()
        yield process
        process.stop()


@pytest.fixture
def trainer(chromium: Browser, served: DemoProcess) -> Iterator[Page]:
    """A trainer at that demo."""
    context = chromium.new_context(base_url=served.address)
    context.set_default_timeout(PATIENCE)
    page = context.new_page()
    page.goto("/sign-in")
    page.fill("#name", "trainer")
    page.fill("#password", "eldrim-demo")
    page.press("#password", "Enter")
    page.wait_for_url(lambda url: not url.endswith("/sign-in"))
    yield page
    context.close()


def test_a_slow_duct_becomes_another_way_in(trainer: Page) -> None:
    """Found on the page, its evidence opened, what would change read first, taken in, planned."""
    page = trainer
    page.goto("/engines/marlet-34-v6?c=5&work=plug&variant=late")
    moves = page.get_by_role("region", name="What moves", exact=True)
    expect(moves).to_contain_text("Intake duct: loosen and shift")
    page.goto("/log")
    page.get_by_role("link", name="What the bays teach").click()
    expect(page.locator("h1")).to_have_text("What the bays teach")
    expect(page.locator(".alerts")).to_contain_text("against what it is set to")
    assert not faults(page)
    page.get_by_role("link", name="Marlet 3.4 vee six, across").click()
    row = page.locator("tr", has_text="intake duct").first
    row.locator("summary").click()
    expect(row.locator("a[href^='/log/']").first).to_be_visible()
    expect(page.locator("main")).to_contain_text("Take the intake duct off instead of:")
    assert not faults(page)
    page.get_by_role("button", name="Take it into the sheet").click()
    expect(page.locator("main")).to_contain_text("Its minutes hold")
    page.goto("/engines/marlet-34-v6?c=5&work=plug&variant=late")
    expect(moves).to_contain_text("Intake duct: off")


def test_the_log_is_asked_kept_as_a_view_and_noted_on(trainer: Page) -> None:
    """From torn boots to their batch, a view kept under a name, and a note on a signed run."""
    page = trainer
    page.goto("/log")
    page.get_by_label("Found").select_option(label="Boot torn or left on the plug")
    page.get_by_role("button", name="Find").click()
    expect(page.locator(".log-sum")).to_contain_text("2 units")
    page.get_by_label("Keep this view as").fill("Torn boots")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.locator(".log-views a[aria-current]")).to_have_text("Torn boots")
    assert not faults(page)
    page.locator("tbody a[href^='/log/']").first.click()
    page.get_by_text("Note something on it").click()
    page.locator("#notes select").select_option(label="It came back")
    page.get_by_label("In words").fill("torn again after a week")
    page.get_by_role("button", name="Note it").click()
    expect(page.locator("#notes")).to_contain_text("It came back: torn again after a week")
    assert not faults(page)
    page.goto("/parts")
    page.get_by_role("link", name="CV-BT-204").click()
    expect(page.locator(".alert-sheet")).to_contain_text("failed; of the")
    expect(page.locator("svg.survival")).to_be_visible()
    assert not faults(page)


def test_a_report_from_a_bay_is_answered_by_an_edit_and_told_back(person: People) -> None:
    """A technician says that a step takes longer; the trainer edits it and says so; once read."""
    bay = person("technician", width=820, height=1180, touch=True)
    start_at(bay, "Tug 21", FRONT, "clean/coils")
    card(bay).get_by_text("Something differs").click()
    card(bay).locator("[data-entry=differs]").get_by_label("Note").fill("brush does not reach")
    card(bay).get_by_role("button", name="Took much longer").click()
    expect(bay.locator("#sent")).to_have_text("All sent")
    desk = person("trainer")
    desk.goto("/procedures")
    desk.get_by_role("link", name=FRONT).first.click()
    draft = desk.url
    desk.get_by_role("link", name="What the bays say of it").click()
    said = desk.locator("li[id='clean/coils']")
    expect(said).to_contain_text("brush does not reach")
    expect(said).to_contain_text("A case, no trend.")
    assert not faults(desk)
    desk.goto(f"{draft}#clean/coils")
    step = desk.locator("li[id='clean/coils']")
    step.get_by_text("Why; change this step, or add one").click()
    step.get_by_label("Note", exact=True).first.fill("Use the long brush for coil 6.")
    step.get_by_role("button", name="Keep the step").click()
    expect(desk.locator("li[id='clean/coils']")).to_contain_text("Use the long brush")
    desk.goto(f"{draft}/lessons")
    said = desk.locator("li[id='clean/coils']")
    said.get_by_text("Answer", exact=True).first.click()
    said.get_by_label("What is done").select_option(label="the step is edited")
    said.get_by_label("In a line").fill("Long brush added for 6.")
    said.get_by_role("button", name="Answer").click()
    expect(desk.locator("#answers")).to_contain_text(re.compile("Tam Okely.*not yet"))
    bay.goto("/bay")
    news = bay.locator(".bay-news li", has_text="Long brush added for 6.")
    expect(news).to_be_visible()
    assert not faults(bay, bright=True)
    news.get_by_role("button", name=re.compile("Read")).tap()
    expect(bay.locator(".bay-news li", has_text="Long brush added for 6.")).to_have_count(0)
    desk.goto(f"{draft}/lessons#answers")
    expect(desk.locator("#answers")).not_to_contain_text("not yet")
