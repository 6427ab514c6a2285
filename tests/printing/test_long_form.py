"""The long form: every step with its caution and source, on pages that say what they are of."""

import re
import shutil
import subprocess
from functools import cache
from html import escape
from pathlib import Path

import pytest

from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.edits import Edit, apply_edits
from eldrim.core.procedure.model import Plan
from eldrim.printing import long_form
from tests.builders import job, tug


@cache
def sheet() -> Plan:
    """The tug's front hole, with a hold point and a step left out."""
    edits = {"torque/plug/2": Edit(hold=True), "clean/well/2": Edit(left_out="no air here")}
    return apply_edits(compile_plan(tug(), job(2)), edits)


@cache
def html() -> str:
    """The sheet before it is paper."""
    return long_form.page(sheet(), tug(), "edition 1", "released 2026-01-31 by trainer", {})


def test_a_step_and_its_cautions_are_one_block_that_is_never_split() -> None:
    """Cautions stand where they act, before the act is explained."""
    blocks = html().split('<div class="step">')[1:]
    assert len(blocks) == len(sheet().steps)
    for block, step in zip(blocks, sheet().steps, strict=True):
        assert escape(step.text, quote=False) in block.replace("&#39;", "'")
        for caution in step.cautions:
            assert caution.text.replace("'", "&#39;") in block
    style = (Path(long_form.__file__).parent / "long_form.css").read_text()
    assert re.search(r"\.step \{[^}]*break-inside: avoid", style)


def test_figures_carry_setting_source_and_variant() -> None:
    """As on the screen."""
    figure = next(f for s in sheet().steps for f in s.figures if f.setting)
    assert figure.setting is not None
    assert f"set <b>{figure.setting.text}</b>" in html()
    assert figure.source in html()
    assert "no air here" in html()
    assert "hold point" in html()


def test_what_is_drawn_is_in_black_and_to_scale() -> None:
    """No colour says anything; sections, roll and rules are there."""
    style = (Path(long_form.__file__).parent / "drawings.css").read_text()
    colours = set(re.findall(r"#[0-9a-f]{3,6}", style))
    assert all(len(set(c[1:])) == 1 for c in colours), colours
    for kind in ("engine-plan", "tool-roll", "torque-rule", "well-section"):
        assert f'class="{kind}' in html()


@pytest.mark.skipif(shutil.which("pdftotext") is None, reason="needs a reader of PDF")
def test_every_page_says_what_it_is_of(tmp_path: Path) -> None:
    """Engine, edition, revision, and that the maker's manual comes first."""
    paper = tmp_path / "sheet.pdf"
    paper.write_bytes(long_form.pdf(sheet(), tug(), "edition 1", "released by trainer", {}))
    text = subprocess.run(
        ["pdftotext", "-layout", str(paper), "-"], capture_output=True, text=True, check=True
    ).stdout
    pages = text.split("\f")[:-1]
    assert len(pages) > 2
    for number, page in enumerate(pages, 1):
        assert "edition 1" in page
        assert "revision 8" in page
        assert "Follow the maker's manual" in page
        assert f"{number}/{len(pages)}" in page


def test_it_is_a_pdf() -> None:
    """Open format."""
    assert long_form.pdf(sheet(), tug(), "edition 1", "now", {}).startswith(b"%PDF")
