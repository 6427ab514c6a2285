"""What the documents name is there: every path, every link, every command with its options."""

import re
import shlex
from pathlib import Path

import pytest
from typer.testing import CliRunner

from eldrim.cli import app
from eldrim.store.cluster import ROOT
from tests.tables import table

DEMO = ROOT / "src/eldrim/demo"
DOCUMENTS = sorted([ROOT / "README.md", ROOT / "CONTRIBUTING.md", *(ROOT / "docs").glob("*.md")])
# Files of a reader's own, and what stands for them here.
STAND_INS = {
    "FILE": DEMO / "engines/marlet-34-v6.engine.yaml",
    "tug.engine.yaml": DEMO / "engines/marlet-34-v6.engine.yaml",
    "launch.engine.yaml": DEMO / "engines/fendrake-50-marine-v8.engine.yaml",
    "power.engine.yaml": DEMO / "engines/ostler-16-flat-four.engine.yaml",
    "crib.csv": DEMO / "crib.csv",
}
# These want a database; tests/server runs them.
ELSEWHERE = {"backup", "verify", "restore", "serve"}
OWN = re.compile(r"^(?:src|docs|tests|bench|bin)/[\w./*-]+$")
COMMAND = re.compile(r"^ {4}(?:bin/)?eldrim (.+)$", re.MULTILINE)


def named_paths() -> list[tuple[str, str]]:
    """Every path of the checkout that a document names in code marks."""
    return [
        (document.name, name.rstrip("/"))
        for document in DOCUMENTS
        for name in re.findall(r"`([^`\s]+)`", document.read_text())
        if OWN.match(name)
    ]


def links() -> list[tuple[Path, str]]:
    """Every link of a document to a file."""
    return [
        (document, target)
        for document in DOCUMENTS
        for target in re.findall(r"\]\(([^)#\s]+)", document.read_text())
        if not target.startswith(("http:", "https:"))
    ]


def commands() -> list[tuple[str, str]]:
    """Every command of ours that a document shows, without its remark and what may be left out."""
    found = []
    for document in DOCUMENTS:
        for line in COMMAND.findall(document.read_text()):
            plain = re.sub(r"\s#.*|\[[^\]]*\]|;? ?…", "", line)
            found.append((document.name, plain.strip()))
    return found


@table(("document", "name"), named_paths())
def test_every_path_named_is_there(document: str, name: str) -> None:
    """As it is written, or with its pattern filled."""
    assert list(ROOT.glob(name)), name


def modules() -> list[tuple[str, str]]:
    """Every module that a document names, by the end of its path."""
    return [
        (document.name, name)
        for document in DOCUMENTS
        for name in re.findall(r"`([a-z_/]+\.py)`", document.read_text())
    ]


@table(("document", "name"), modules())
def test_every_module_named_is_there(document: str, name: str) -> None:
    """Renamed code takes its documents along."""
    there = [
        *(ROOT / "src").rglob("*.py"),
        *(ROOT / "bench").glob("*.py"),
        *(ROOT / "tests").rglob("*.py"),
    ]
    assert any(str(path).endswith(f"/{name}") for path in there), name


@table(("document", "target"), links())
def test_every_link_leads_somewhere(document: Path, target: str) -> None:
    """From where the document stands."""
    assert (document.parent / target).exists(), target


@table(("document", "command"), commands())
def test_every_command_shown_does_its_work(document: str, command: str, tmp_path: Path) -> None:
    """It ends with 0; a command that wants a database is known at least."""
    words = [str(STAND_INS.get(word, word)) for word in shlex.split(command)]
    if "--last" in words:
        # What a set told before is what the same command answered then.
        place = words.index("--last") + 1
        before = CliRunner().invoke(app, [*words[: place - 1], "--format", "json"])
        (tmp_path / words[place]).write_text(before.stdout)
        words[place] = str(tmp_path / words[place])
    asked = [words[0], "--help"] if words[0] in ELSEWHERE else words
    done = CliRunner().invoke(app, asked)
    assert done.exit_code == 0, f"{command}: {done.output[:300]}"


def test_every_script_of_ours_is_told_of() -> None:
    """A command nobody knows of is none."""
    read = (ROOT / "README.md").read_text()
    for script in (ROOT / "bin").iterdir():
        assert script.name.startswith("_") or f"bin/{script.name}" in read, script.name


def test_the_layout_told_is_the_layout() -> None:
    """Every room of the source is named, where the README says what is in it."""
    told = (ROOT / "README.md").read_text().split("## How the code is laid out")[1]
    rooms = [f for f in (ROOT / "src/eldrim").rglob("*") if (f / "__init__.py").exists()]
    core = [f.name for f in rooms if f.parent.name == "core"]
    top = [f.name for f in rooms if f.parent.name == "eldrim"]
    missing = [name for name in (*top, *core) if f"{name}/" not in told]
    assert not missing, missing


@pytest.mark.parametrize("name", ["docs/architecture.md"])
def test_the_architecture_names_every_room_of_the_core(name: str) -> None:
    """A stranger looks there first."""
    told = (ROOT / name).read_text()
    rooms = [f.name for f in (ROOT / "src/eldrim/core").iterdir() if (f / "__init__.py").exists()]
    assert not [room for room in rooms if room not in told]
