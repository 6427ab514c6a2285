"""Pictures of the main views from the demo data, for the README. Run by ``bin/shots``."""

import argparse
import re
import tempfile
from pathlib import Path
from uuid import UUID

from playwright.sync_api import Browser, Page, sync_playwright
from tests.browser import hands

from eldrim.core.job import Job, Work
from eldrim.core.procedure.compile import compile_plan
from eldrim.demo.load import demo_crib, demo_engines
from eldrim.demo.process import DemoProcess
from eldrim.printing.act_lines import Closeness
from eldrim.printing.codes import Codes
from eldrim.printing.job_sheet import Edition
from eldrim.printing.job_sheet import page as page_of_sheet

# Until what was written is sent and told again.
SETTLED_MS = 1500
DESK = {"width": 1280, "height": 800}
TABLET = {"width": 820, "height": 1180}
PHONE = {"width": 360, "height": 740}
# A4 as a browser draws it.
PAPER = {"width": 794, "height": 1010}


def main() -> None:
    """Take every picture from a running demo."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--out", type=Path, default=Path(__file__).parent / "screenshots")
    options = parser.parse_args()
    options.out.mkdir(parents=True, exist_ok=True)
    demo = DemoProcess(Path(__file__).parents[1] / "var" / "shots")
    demo.start("--fresh")
    try:
        with sync_playwright() as play:
            browser = play.chromium.launch(executable_path=hands.CHROMIUM, args=hands.FLAGS)
            _desk(browser, demo.address, options.out)
            _bay(browser, demo.address, options.out)
            browser.close()
    finally:
        demo.stop()


def sign_in(
    browser: Browser, address: str, name: str, size: dict[str, int], *, touch: bool = False
) -> Page:
    """Sign in as a demo person on a screen of this size."""
    page = browser.new_page(viewport=size, base_url=address, has_touch=touch)
    page.goto("/sign-in")
    page.fill("#name", name)
    page.fill("#password", "eldrim-demo")
    page.click("text=Sign in >> nth=-1")
    return page


def _desk(browser: Browser, address: str, out: Path) -> None:
    page = sign_in(browser, address, "trainer", DESK)
    page.wait_for_url(re.compile("/desk"))
    page.screenshot(path=out / "desk.png")
    page.goto("/lessons")
    page.screenshot(path=out / "lessons.png")
    page.goto("/engines/marlet-34-v6?c=3&c=5&work=coil&work=plug&variant=late")
    page.screenshot(path=out / "plan.png")
    for _ in range(22):
        page.keyboard.press("]")
    page.screenshot(path=out / "scrubber.png")
    found = "1: 1; 2: 8; 3: 3; 4: 4; 5: 6; 6: 5; 7: 7; 8: 2"
    page.goto(f"/engines/fendrake-50-marine-v8/leads?found={found}")
    page.screenshot(path=out / "leads.png")
    seen = {1: "sooty-black", 3: "sooty-black", 5: "sooty-black, track", 2: "ok", 6: "wet-oily"}
    typed = "&".join(f"hole-{hole}={signs}" for hole, signs in seen.items())
    page.goto(f"/engines/marlet-34-v6/plugs?{typed}")
    page.locator(".verdict summary").first.click()
    page.screenshot(path=out / "plugs.png")
    page.goto("/engines/marlet-34-v6/fault?codes=P0305&symptoms=wet")
    page.screenshot(path=out / "fault.png")
    _capture(page, out)
    _figures(page, out)
    _procedure(page, out)
    page.goto("/log")
    page.click("tbody a")
    page.screenshot(path=out / "log.png")
    page.close()


def _procedure(page: Page, out: Path) -> None:
    """Acts of a draft, one being worded for all its holes; and the job sheet of the same."""
    page.goto("/engines/marlet-34-v6?c=2&c=4&c=6&work=coil&work=plug&variant=late")
    page.get_by_role("button", name="Make the procedure").click()
    page.wait_for_url(re.compile("/procedures/"))
    act = page.locator("li[id='act/torque/plug/2']")
    act.locator("> .edit-step > summary").click()
    act.get_by_label("Wording").fill("Click plug {hole} home at {setting}")
    page.get_by_text("Click plug 6 home").wait_for()
    act.evaluate("act => act.scrollIntoView({behavior: 'instant'})")
    page.screenshot(path=out / "procedure.png")
    sheet = page.context.browser.new_page(viewport=PAPER)  # type: ignore[union-attr]
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "sheet.html"
        file.write_text(_job_sheet())
        sheet.goto(file.as_uri())
        sheet.add_style_tag(content="body { padding: 6.5mm 10mm; } .running { display: none; }")
        sheet.screenshot(path=out / "job-sheet.png")
    sheet.close()


def _job_sheet() -> str:
    engine = next(one for one in demo_engines() if one.id == "marlet-34-v6")
    job = Job(cylinders=(2, 4, 6), work=(Work.COIL, Work.PLUG), variant="late")
    plan = compile_plan(engine, job, crib=demo_crib())
    about = Edition("edition 1", "released", Codes("http://eldrim.example", UUID(int=2**127)))
    return page_of_sheet(plan, engine, about, "A4", Closeness.TIGHT)


def _capture(page: Page, out: Path) -> None:
    page.goto("/engines/new")
    page.fill("input[name=make]", "Tarn")
    page.fill("input[name=name]", "3.0 vee six")
    page.click("button[value=vee-six]")
    page.wait_for_url(re.compile("/capture/"))
    page.click(".palette button[value=plenum]")
    page.wait_for_selector(".in-hand-part")
    for n in range(9):
        page.keyboard.press("ArrowUp")
        page.wait_for_selector(f"[data-number='{n + 3}']")
    for line in ("6 hex bolts 10 mm 16-20 Nm below 140 mm", "2 gaskets #TG-30 one-time"):
        number = page.get_attribute("#capture", "data-number")
        page.fill("#joint", line)
        page.click(".joint-line:has(#joint) button")
        page.wait_for_selector(f"#capture:not([data-number='{number}'])")
    page.locator(".joints summary").first.click()
    page.get_by_role("button", name="mark its places on the plan").first.click()
    page.locator("path.piece").first.wait_for()
    page.screenshot(path=out / "capture.png")


def _figures(page: Page, out: Path) -> None:
    page.goto("/engines/dunmarl-42-six/figures")
    page.screenshot(path=out / "figures.png")
    page.goto("/crib")
    page.locator("#handles").evaluate("table => table.scrollIntoView({behavior: 'instant'})")
    page.screenshot(path=out / "crib.png")
    page.goto("/due")
    page.screenshot(path=out / "due.png")
    page.goto("/units/tug-14")
    page.locator("#life").evaluate("life => life.scrollIntoView({behavior: 'instant'})")
    page.screenshot(path=out / "unit.png")


def _bay(browser: Browser, address: str, out: Path) -> None:
    page = sign_in(browser, address, "technician", TABLET)
    page.goto("/bay")
    page.get_by_label("Bay 2").check()
    hands.start_run(page, "Tug 14", "Plug and coil, holes 2, 4 and 6")
    hands.ahead(page, "clean/coils")
    card = hands.card(page)
    card.get_by_text("Stop: something is wrong").click()
    card.get_by_role("button", name="Oil in the well").click()
    page.wait_for_selector("#parts li")
    page.screenshot(path=out / "stop.png")
    page.get_by_label("What was done?").fill("wicked out, dry")
    page.get_by_role("button", name="Clear: The well is dry").click()
    page.wait_for_selector(".stop-acts", state="detached")
    hands.ahead(page, "torque/plug/4")
    hands.write_reading(page, "torque", "17.6")
    page.wait_for_timeout(SETTLED_MS)
    page.screenshot(path=out / "bay-step.png")
    hands.ahead(page, "torque/plug/6")
    page.wait_for_timeout(SETTLED_MS)
    # On a touch screen the number asked for has a pad of figures.
    phone = sign_in(browser, address, "technician", PHONE, touch=True)
    phone.goto(page.url)
    # What the plugs tell was seen on the tablet.
    phone.locator("#verdict[open]").wait_for()
    phone.reload()
    phone.locator(".pad").wait_for()
    phone.wait_for_timeout(SETTLED_MS)
    phone.screenshot(path=out / "bay-step-phone.png")
    phone.close()
    _another_bay(browser, address)
    lead = sign_in(browser, address, "lead", DESK)
    lead.goto("/floor")
    lead.screenshot(path=out / "floor.png")
    lead.close()
    page.close()


def _another_bay(browser: Browser, address: str) -> None:
    """A bay that needs a hand: a value for the lead."""
    page = sign_in(browser, address, "technician", TABLET)
    page.goto("/bay")
    page.get_by_label("Hangar door").check()
    hands.start_run(page, "Belt loader 9", "Plug, holes 1, 2, 3 and 4")
    hands.ahead(page, "torque/plug/4", {"gap_found": "0.82", "gap_left": "0.7", "torque": "27.5"})
    hands.write_reading(page, "torque", "33")
    card = hands.card(page)
    card.get_by_role("button", name="Tool clicked late").click()
    page.wait_for_selector("#open:not([hidden])")
    page.wait_for_timeout(SETTLED_MS)
    page.close()


if __name__ == "__main__":
    main()
