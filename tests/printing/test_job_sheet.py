"""The job sheet: few sides, and nothing lost on them, however closely it is set."""

import re
import shutil
import subprocess
import zlib
from contextlib import suppress
from functools import cache
from html import unescape
from pathlib import Path
from uuid import UUID

import pytest
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.edits import OWN, Edit, OwnStep, apply_edits
from eldrim.core.procedure.editions.fold import acts_of, fold
from eldrim.core.procedure.model import Plan
from eldrim.core.words.language import speaking
from eldrim.demo.load import demo_engines
from eldrim.printing import job_sheet, wing_card
from eldrim.printing.act_lines import Closeness
from eldrim.printing.codes import Codes
from eldrim.printing.job_sheet import Edition, sides_of
from eldrim.store import edition_store, sheet_store
from eldrim.store.tables import EditionRow
from tests.builders import job, tug
from tests.core.test_plans import questions

ABOUT = Edition("edition 1", "released 2026-01-31 by trainer")
KEY = UUID("6f3a5c81-0000-4000-8000-000000000000")
WITH_CODES = Edition("edition 1", "released", Codes("http://10.1.2.3:8000/", KEY))
ENGINES = {engine.id: engine for engine in demo_engines()}
# Of every kind: a cover off, a plenum off, in turn with leads, pieces at a distributor, German.
ASKED = sorted(name for name in questions() if name.split(", ")[-1] != "another way")


@cache
def plan_of(name: str) -> Plan:
    """The plan of a question."""
    return compile_plan(*questions()[name])


def words(page: str) -> str:
    """What stands on a page, without its marks."""
    body = page.split("<body", 1)[1]
    return " ".join(unescape(re.sub(r"<svg.*?</svg>|<[^>]*>", " ", body, flags=re.S)).split())


def pages(pdf: bytes) -> int:
    """How many sides a PDF has."""
    found = len(re.findall(rb"/Type\s*/Page\b", opened(pdf)))
    assert found, "a PDF that has pages"
    return found


def opened(pdf: bytes) -> bytes:
    """A PDF with what is packed in it unpacked."""
    packed = re.findall(rb"stream\r?\n(.*?)\r?\nendstream", pdf, re.S)
    found = [pdf]
    for one in packed:
        with suppress(zlib.error):
            found.append(zlib.decompress(one))
    return b"\n".join(found)


def test_all_editions_of_the_demo_have_few_sides(store: sessionmaker[Session]) -> None:
    """One for up to four holes, two for up to eight, with the codes of all their acts."""
    asked = set()
    with store() as session:
        for row in session.query(EditionRow):
            plan = edition_store.plan_of(row)
            question = (plan.engine, plan.job.model_dump_json())
            if plan.search or question in asked:
                continue
            asked.add(question)
            sheet = sheet_store.sheet(session, plan.engine, plan.revision)
            holes = len({step.hole for step in plan.steps if step.hole})
            made = pages(job_sheet.pdf(plan, sheet, WITH_CODES))
            assert made <= (1 if holes <= 4 else 2 if holes <= 8 else 4), (plan.engine, plan.title)
    assert len(asked) >= 6


@pytest.mark.sweep(2)
@pytest.mark.parametrize(
    ("engine", "cylinders", "sides"),
    [
        ("marlet-34-v6", (2, 4, 6), 1),
        ("marlet-34-v6", (1, 3, 5), 1),
        ("marlet-34-v6", (1, 2, 3, 4, 5, 6), 2),
        ("brannoch-57-v8", (1, 2, 3, 4), 1),
        ("brannoch-57-v8", (1, 2, 3, 4, 5, 6, 7, 8), 2),
    ],
)
def test_sides_by_the_holes_asked_for(engine: str, cylinders: tuple[int, ...], sides: int) -> None:
    """The rear bank, with the plenum off, is one side like the front bank."""
    sheet = ENGINES[engine]
    asked = job(*cylinders, variant=list(sheet.variants)[-1])
    plan = compile_plan(sheet, asked)
    assert sides_of(plan) == sides
    assert pages(job_sheet.pdf(plan, sheet, WITH_CODES)) <= sides


@pytest.mark.sweep(58)
@pytest.mark.parametrize("closeness", list(Closeness))
@pytest.mark.parametrize("name", ASKED)
def test_nothing_is_lost_however_closely_it_is_set(name: str, closeness: Closeness) -> None:
    """Acts, cautions, proofs, what is written down, settings with their source, minutes, notes."""
    plan = plan_of(name)
    page = job_sheet.page(plan, questions()[name][0], ABOUT, "A4", closeness)
    said = words(page)
    for act in acts_of(fold(plan.steps)):
        assert act.text in said
    for step in plan.steps:
        for caution in step.cautions:
            assert caution.text in said, (step.key, caution.key)
        for check in step.checks:
            assert check.text in said, (step.key, check.key)
        for one in step.here:
            assert one in said, step.key
        for figure in step.figures:
            assert figure.printed in said
            assert figure.source in said
            with speaking(plan.job.language):
                assert not figure.setting or figure.setting.text in said
        for reading in step.readings:
            assert reading.label in said or not reading.required
    assert plan.defers_to in said


def test_a_caution_binds_where_its_letter_stands() -> None:
    """Each act names the letters of all cautions that each of its steps has."""
    plan = compile_plan(tug(), job(1, 3, 5))
    for closeness in Closeness:
        page = job_sheet.page(plan, tug(), ABOUT, "A4", closeness)
        frame = page.split('class="cautions"')[1].split("</p>")[0]
        letters = {
            unescape(text.strip()): letter
            for letter, text in re.findall(r'<b class="c">(\w+)</b>([^<]*)', frame)
        }
        lines = page.split('<div class="act">')[1:]
        for act in acts_of(fold(plan.steps)):
            said = f"<b>{act.text}</b>"
            line = next(one for one in lines if said in unescape(one))
            before = set(words(f"<body>{unescape(line).split(said)[0]}").split())
            for step in act.steps:
                for caution in step.cautions:
                    assert letters[caution.text] in before, (act.text, caution.key)


def test_what_a_trainer_wrote_stands_on_it() -> None:
    """A wording and its exception, notes, own cautions, own steps, holds, what is left out."""
    edits = {
        "torque/plug/*": Edit(text="Click plug {hole} home", note="Left hand on the head."),
        "torque/plug/6": Edit(text="Plug 6, short extension", hold=True),
        "remove/plug/4": Edit(cautions=("The hose is close",)),
        "remove/sound-cover": Edit(note="It hangs on the left."),
        "read/coil/*": Edit(left_out="the coils are new"),
        f"{OWN}look": Edit(
            own=OwnStep(text="Look at the stay", after="torque/plug/*", proof="Sound")
        ),
    }
    plan = apply_edits(compile_plan(tug(), job(2, 4, 6)), edits)
    for closeness in Closeness:
        said = words(job_sheet.page(plan, tug(), ABOUT, "A4", closeness))
        for text in (
            "Click plug 2 home",
            "Click plug 4 home",
            "Plug 6, short extension",
            "Left hand on the head.",
            "The hose is close",
            "It hangs on the left.",
            "Look over coil 2, 4, 6. the coils are new",
            "Look at the stay",
            "Sound",
            "hold point",
        ):
            assert text in said, (closeness, text)


def test_the_grid_has_a_box_for_each_reading_and_proof_of_each_hole() -> None:
    """Windows in the head where they are alike, in the box where they differ."""
    plan = plan_of("fendrake-50-marine-v8, all, all")
    made = job_sheet.grid(plan)
    assert made is not None
    assert set(made.holes) == {str(number) for number in range(1, 9)}
    by_label = {column.label: column for column in made.columns}
    torque = next(c for label, c in by_label.items() if label.lower().startswith("torque"))
    assert torque.window
    assert set(torque.cells) == {""}
    length = next(c for label, c in by_label.items() if label.lower().startswith("length"))
    assert length.window == ""
    assert len(set(length.cells)) > 1
    assert all(length.cells)
    checks = [
        [c.text for s in plan.steps if s.hole == hole for c in s.checks] for hole in made.holes
    ]
    assert [[made.ticks[n - 1] for n in boxes] for boxes in made.boxes] == checks


def test_nothing_is_printed_smaller_than_nine_points() -> None:
    """Also not in the margins."""
    style = (Path(job_sheet.__file__).parent / "job_sheet.css").read_text()
    sizes = re.findall(r"(?:font-size: |font: )([\d.]+)(pt)?", style)
    assert sizes
    assert all(float(size) >= 9 for size, unit in sizes if unit)
    assert {size for size, unit in sizes if not unit} <= {"0"}, "only what is not shown has no size"


def test_codes_lead_to_the_edition_and_to_each_act_at_holes() -> None:
    """In capitals, so that a small code can be read; none where there is nothing to lead to."""
    plan = compile_plan(tug(), job(2, 4, 6))
    acts = [act for act in acts_of(fold(plan.steps)) if act.every]
    page = job_sheet.page(plan, tug(), WITH_CODES, "A4", Closeness.OPEN)
    strip = page.split('class="codes">')[1]
    assert strip.count("<svg") == len(acts)
    assert words(f"<body {strip}").split()[: len(acts)] == [str(n + 1) for n in range(len(acts))]
    codes = WITH_CODES.codes
    assert codes is not None
    assert codes.address == "HTTP://10.1.2.3:8000/E/6F3A5C8100"
    bare = job_sheet.page(plan, tug(), ABOUT, "A4", Closeness.OPEN)
    assert "<svg" not in bare.split('class="codes">')[1]


@pytest.mark.skipif(shutil.which("pdftotext") is None, reason="needs a reader of PDF")
def test_the_text_of_the_paper_is_text(tmp_path: Path) -> None:
    """It is found and copied: job, setting, source, what comes first."""
    paper = tmp_path / "sheet.pdf"
    plan = compile_plan(tug(), job(2, 4, 6))
    paper.write_bytes(job_sheet.pdf(plan, tug(), ABOUT, "Letter"))
    read = ["pdftotext", str(paper), "-"]
    text = " ".join(subprocess.run(read, capture_output=True, text=True, check=True).stdout.split())
    for said in (
        "Plug and coil, holes 2, 4 and 6",
        "17.5 N·m",
        "p. 6-12",
        "manual and local rules",
    ):
        assert said in text


def test_the_card_for_the_wing_says_settings_and_order_and_nothing_else() -> None:
    """On one side of A5 for three holes."""
    plan = compile_plan(tug(), job(1, 3, 5))
    card = wing_card.pdf(plan, WITH_CODES)
    assert pages(card) == 1
    assert b"419.52" in opened(card)
    names = {figure.name for figure in wing_card.part_figures(plan)}
    assert any("plenum" in name for name in names)
    assert {f.setting for f in job_sheet.hole_figures(plan)} >= {"17.5 N·m"}
