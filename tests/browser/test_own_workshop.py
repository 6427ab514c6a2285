"""A workshop of one's own, from the first start to a backup that comes up elsewhere."""

import os
import re
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, expect

from eldrim.exchange.engine_file import write_engine
from eldrim.store.cluster import ROOT, Cluster
from tests.browser.conftest import PATIENCE
from tests.browser.hands import CHROMIUM, FLAGS, ahead, card, do_step, start_run
from tests.builders import engine
from tests.databases import MINE, drop_mine
from tests.own import Proxy, Server

LEAD, TRAINER, TECHNICIAN = "hinges and brass", "kerosene teapot", "felt under glass"


@pytest.fixture
def own(cluster: Cluster, tmp_path: Path) -> Iterator[tuple[Server, Proxy]]:
    """A server on a database that is not there yet, behind TLS; gone afterwards."""
    server = Server(cluster.url(f"{MINE}_own_story"), tmp_path, "--trusted-proxy", "127.0.0.1")
    proxy = Proxy(tmp_path, [server.port])
    server.start()
    proxy.start()
    yield server, proxy
    proxy.stop()
    server.stop()
    drop_mine(cluster, "own_")


@pytest.fixture
def trusting(play: Playwright) -> Iterator[Browser]:
    """A browser that takes the certificate made on the spot, as a shop's tablets do theirs."""
    flags = [
        *FLAGS,
        "--ignore-certificate-errors",
        "--use-fake-device-for-media-stream",
        "--use-fake-ui-for-media-stream",
    ]
    browser = play.chromium.launch(executable_path=CHROMIUM, args=flags)
    yield browser
    browser.close()


def window(browser: Browser, address: str, *, touch: bool = False) -> BrowserContext:
    """A window of its own: a desk's, or a tablet's."""
    size = {"width": 820, "height": 1180} if touch else {"width": 1280, "height": 800}
    context = browser.new_context(
        base_url=address, viewport=size, has_touch=touch, ignore_https_errors=True
    )
    context.set_default_timeout(PATIENCE)
    return context


def sign_in(context: BrowserContext, name: str, password: str) -> Page:
    """Sign in; the page one starts at."""
    page = context.new_page()
    page.goto("/sign-in")
    page.fill("#name", name)
    page.fill("#password", password)
    page.press("#password", "Enter")
    page.wait_for_url(lambda url: "/sign-in" not in url)
    return page


def first_people(page: Page, code: str) -> None:
    """What the console's code is for."""
    page.goto("/")
    expect(page).to_have_url(re.compile("/first$"))
    for field, said in (
        ("code", code),
        ("lead_display", "Asta Holm"),
        ("lead_name", "asta"),
        ("lead_password", LEAD),
        ("lead_pin", "905172"),
        ("trainer_display", "Tove Rask"),
        ("trainer_name", "tove"),
        ("trainer_password", TRAINER),
    ):
        page.fill(f"#{field}", said)
    page.get_by_role("button", name="Open the workshop").click()
    expect(page).to_have_url(re.compile("/sign-in$"))


def by_the_trainer(page: Page) -> None:
    """The crib, an engine from a file, a procedure released, a unit."""
    expect(page.get_by_role("heading", name="What to do first")).to_be_visible()
    page.get_by_role("button", name="Begin with the usual workshop's tools").click()
    page.goto("/take-in")
    sheet = write_engine(engine(1, name="1.0 single", id="single")).encode()
    page.set_input_files(
        "input[type=file]",
        {"name": "single.engine.yaml", "mimeType": "application/yaml", "buffer": sheet},
    )
    page.get_by_role("button", name="Read it").click()
    page.get_by_role("button", name=re.compile("in$")).click()
    page.goto("/engines/single?c=1")
    page.get_by_role("button", name="Make the procedure").click()
    page.fill("#reason", "First edition")
    for accepted in page.locator("#accepted").all():
        accepted.fill("Looked at beside the engine")
    page.get_by_role("button", name=re.compile("Release edition")).click()
    expect(page).to_have_url(re.compile("/editions/"))
    page.goto("/units")
    form = page.locator("form[action='/units']").last
    form.locator("[name=name]").fill("Pump 1")
    form.locator("[name=serial]").fill("P-100")
    form.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("heading", name="Pump 1")).to_be_visible()


def by_the_lead(page: Page) -> None:
    """A technician, and a bay to stand in."""
    page.goto("/people")
    for field, said in (("display", "Odd Berg"), ("name", "odd"), ("password", TECHNICIAN)):
        page.fill(f"#{field}", said)
    page.select_option("#role", "technician")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.locator("table")).to_contain_text("Odd Berg")
    page.fill("#bay", "Pit 1")
    page.get_by_role("button", name="Name it").click()
    expect(page.locator(".bay-names")).to_contain_text("Pit 1")


def command(*words: str, url: str) -> str:
    """What the command line says."""
    done = subprocess.run(
        [sys.executable, "-m", "eldrim.cli", *words],
        env=os.environ | {"ELDRIM_DATABASE_URL": url},
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_from_the_first_start_to_a_restored_backup(
    own: tuple[Server, Proxy], trusting: Browser, cluster: Cluster, tmp_path: Path
) -> None:
    """The whole of it, behind TLS; the tablet has its helper, its camera, and hears of changes."""
    server, proxy = own
    desk = window(trusting, proxy.address)
    first_people(desk.new_page(), server.code)
    by_the_trainer(sign_in(desk, "tove", TRAINER))
    lead = sign_in(window(trusting, proxy.address), "asta", LEAD)
    by_the_lead(lead)
    lead.goto("/floor")
    expect(lead.locator("#bays")).to_contain_text("No run is going on")

    tablet = sign_in(window(trusting, proxy.address, touch=True), "odd", TECHNICIAN)
    start_run(tablet, "Pump 1", "")
    expect(lead.locator("#bays")).to_contain_text("Pump 1")
    ready = "navigator.serviceWorker.ready.then((found) => Boolean(found.active))"
    assert tablet.evaluate(ready)
    camera = "navigator.mediaDevices.getUserMedia({ video: true }).then((s) => s.active)"
    assert tablet.evaluate(camera)
    do_step(tablet)
    ahead(tablet, "prove/sign", {"gap_found": "0.85", "gap_left": "0.75", "torque": "22"})
    expect(lead.locator("#bays")).to_contain_text("and sign")
    for proof in card(tablet).locator("[data-done] input[type=checkbox]").all():
        proof.check()
    tablet.locator("[data-confirm]:not(.gives)").click()
    expect(tablet).to_have_url(re.compile("/log/"))

    file = tmp_path / "friday.tar"
    assert "restored beside and compared" in command("backup", str(file), url=server.url)
    elsewhere = cluster.url(f"{MINE}_own_elsewhere")
    assert "1 runs" in command("restore", str(file), url=elsewhere)
    other = Server(elsewhere, tmp_path)
    other.start()
    try:
        again = sign_in(window(trusting, f"http://127.0.0.1:{other.port}"), "asta", LEAD)
        again.goto("/log")
        expect(again.locator("tbody")).to_contain_text("Pump 1")
        again.goto("/audit")
        expect(again.locator("body")).to_contain_text("backup restored")
    finally:
        other.stop()
