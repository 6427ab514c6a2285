"""Too hot to start, and labels: what the bay counts down, and what its camera reads."""

import re
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
import segno
from playwright.sync_api import Playwright, StorageState, expect

from eldrim.demo.process import DemoProcess
from tests.browser.conftest import People
from tests.browser.hands import (
    CHROMIUM,
    FLAGS,
    card,
    do_step,
    on_a_run,
    start_at,
    start_run,
    step_now,
    write_reading,
)

pytestmark = pytest.mark.browser
FRONT = "Plug and coil, holes 2, 4 and 6"
SIDE = 480


def camera_shows(text: str, path: Path) -> None:
    """Write a film in which a label with this code is held before the camera, a little askew."""
    rows = [list(row) for row in segno.make(text, error="m", micro=False).matrix_iter(border=4)]
    cell = SIDE // (len(rows) + 6)
    luma = bytearray()
    for y in range(SIDE):
        for x in range(SIDE):
            u, v = (x + 0.05 * y - 30) / cell - 1, (y - 0.05 * x) / cell - 1
            inside = 0 <= u < len(rows) and 0 <= v < len(rows)
            luma.append(40 if inside and rows[int(v)][int(u)] else 200)
    frame = b"FRAME\n" + bytes(luma) + bytes([128]) * (SIDE * SIDE // 2)
    path.write_bytes(f"YUV4MPEG2 W{SIDE} H{SIDE} F10:1 Ip A1:1 C420\n".encode() + frame * 2)


@pytest.fixture
def before_camera(
    play: Playwright, demo: DemoProcess, tmp_path: Path, signed_in: Callable[[str], StorageState]
) -> Iterator[People]:
    """People whose browser has a camera; it shows what the test puts into ``label.y4m``."""
    film = tmp_path / "label.y4m"
    camera_shows("ELDRIM UNIT tug-14 2231", film)
    flags = [
        *FLAGS,
        "--use-fake-device-for-media-stream",
        "--use-fake-ui-for-media-stream",
        f"--use-file-for-fake-video-capture={film}",
    ]
    browser = play.chromium.launch(executable_path=CHROMIUM, args=flags)
    people = People(browser, demo, signed_in)
    yield people
    people.close()
    browser.close()


def test_a_label_before_the_camera_finds_the_unit_and_confirms_it(
    before_camera: People, tmp_path: Path
) -> None:
    """Scanned in the bay it brings up the unit; in the run it is the serial; a bag opens a step."""
    page = before_camera("technician", 820, 1180, touch=True)
    page.goto("/bay")
    page.get_by_role("button", name="Scan a unit").tap()
    page.wait_for_url(re.compile("label="))
    expect(page.locator(".units > li")).to_have_count(1)
    page.get_by_role("button", name=FRONT).tap()
    on_a_run(page)
    run = page.url.split("/runs/")[1][:36]
    card(page).get_by_role("button", name="Scan the label").tap()
    expect(card(page).locator("[data-reading=serial] [data-kept]")).to_contain_text("2231")
    expect(page.locator("#camera")).to_be_hidden()
    camera_shows(f"ELDRIM BAG {run[:8]} remove/sound-cover", tmp_path / "label.y4m")
    page.get_by_role("button", name="Scan a bag").tap()
    expect(card(page).locator("h1")).to_contain_text("cover")
    assert step_now(page) == "fit/sound-cover"
    camera_shows("ELDRIM BAG 00000000 remove/sound-cover", tmp_path / "label.y4m")
    page.get_by_role("button", name="Scan a bag").tap()
    expect(card(page).get_by_role("alert")).to_contain_text("This is no label for here")


def test_without_a_camera_it_says_what_to_do(person: People) -> None:
    """No camera, or not allowed: type, or use a reader."""
    page = person("technician")
    start_run(page, "Tug 14", FRONT)
    card(page).get_by_role("button", name="Scan the label").click()
    expect(page.locator("#camera")).to_contain_text("Type it, or use a reader")
    write_reading(page, "serial", "ELDRIM UNIT tug-14 2231")
    expect(card(page).locator("[data-reading=serial] [data-kept]")).to_contain_text("2231")


@pytest.mark.keeps
def test_the_wrong_unit_is_told_at_once_without_the_link(person: People) -> None:
    """The plate of another unit is refused on the tablet itself."""
    page = person("technician")
    person.expected.append("ERR_INTERNET_DISCONNECTED")
    start_run(page, "Tug 14", FRONT)
    expect(page.locator("#kept")).to_be_visible()
    page.context.set_offline(True)
    write_reading(page, "serial", "2248")
    expect(card(page).get_by_role("alert")).to_contain_text("the card of this unit says 2231")
    expect(page.locator("#sent")).to_have_text("All sent")


def test_a_hot_head_counts_down_to_when_it_may_be_worked_on(person: People) -> None:
    """Two readings and the air give the time; it runs down, also while one looks elsewhere."""
    page, lead = person("technician"), person("lead")
    page.clock.install()
    start_at(page, "Tug 14", FRONT, "ready/temperature")
    write_reading(page, "temperature", "80")
    clock, said = card(page).locator("[data-clock]"), card(page).locator("[data-said]")
    expect(said).to_contain_text("Read again at")
    expect(clock).to_have_text(re.compile(r"^(10:00|9:5\d)$"))
    page.clock.fast_forward("10:00")
    expect(clock).to_have_text("Now: read again")
    write_reading(page, "temperature", "65")
    expect(said).to_contain_text("Read the air too")
    write_reading(page, "air", "20")
    expect(said).to_contain_text("it is at 40 °C then")
    expect(clock).to_have_text(re.compile(r"^28:\d\d$"))
    expect(card(page).locator("svg.cooling-curve")).to_be_visible()
    page.locator("[data-on]").click()
    expect(page.locator("#waiting")).to_contain_text("Start at")
    page.locator("[data-back]").click()
    lead.goto("/floor")
    expect(lead.locator("#bays")).to_contain_text("Head 65 °C at")
    page.locator("[data-confirm]").click()
    expect(card(page).get_by_role("alert")).to_contain_text("Still open here: Head")
    page.clock.fast_forward("29:00")
    expect(clock).to_have_text("Now: read again")
    do_step(page, {"temperature": "39", "air": "20"})
    assert step_now(page) == "release/sound-cover/posts"
