"""The command line: text for people, JSON as a contract, exit code 2 with the path."""

import json
import re
from pathlib import Path

import pytest
import yaml
from typer.testing import CliRunner, Result

from eldrim.cli import app
from eldrim.demo.load import ENGINES
from tests.builders import document
from tests.printing.test_job_sheet import opened

TUG = str(ENGINES / "marlet-34-v6.engine.yaml")
MOVE = {"part", "way", "why"}
STEP = {
    "key",
    "phase",
    "verb",
    "object",
    "cylinder",
    "tools",
    "figures",
    "cautions",
    "checks",
    "minutes",
    "because",
}
FIGURE = {"value", "unit", "min", "max", "aim", "source"}
WHOLE = {"moves", "steps", "tools", "parts", "minutes", "tool_changes", "proven_optimal"}


def run(*words: str) -> Result:
    """Run the command line."""
    return CliRunner().invoke(app, list(words))


def test_check_says_a_good_sheet_is_good() -> None:
    """With what it holds."""
    done = run("check", TUG)
    assert done.exit_code == 0
    assert "consistent; 6 cylinders, 6 parts" in done.stdout


def test_the_json_of_a_plan_keeps_its_contract() -> None:
    """The documented names are all there, and the plenum only for the rear bank."""
    rear = json.loads(run("plan", TUG, "--cylinders", "1,3,5", "--format", "json").stdout)
    assert set(rear) >= WHOLE
    assert all(set(m) >= MOVE for m in rear["moves"])
    assert all(set(s) >= STEP for s in rear["steps"])
    figures = [f for s in rear["steps"] for f in s["figures"]]
    assert figures
    assert all(set(f) >= FIGURE for f in figures)
    assert "plenum" in [m["part"] for m in rear["moves"]]
    assert rear["proven_optimal"] is True
    front = json.loads(run("plan", TUG, "--cylinders", "2", "--format", "json").stdout)
    assert [m["part"] for m in front["moves"]] == ["sound-cover"]


def test_what_ifs_and_schools_can_be_asked() -> None:
    """A way ruled out, a rule changed."""
    words = ["plan", TUG, "--cylinders", "5", "--format", "json"]
    base = json.loads(run(*words).stdout)
    other = json.loads(run(*words, "--forbid", "throttle-body/swing").stdout)
    ways = [{m["part"]: m["way"] for m in p["moves"]}["throttle-body"] for p in (base, other)]
    assert ways == ["swing", "remove"]
    dry = json.loads(run(*words, "--school", "thread_cleaning=every_hole").stdout)
    assert "chase/plug/5" in [s["key"] for s in dry["steps"]]


def test_the_text_of_a_plan_reads_in_order() -> None:
    """Phases, tools, figures with source, cautions."""
    text = run("plan", TUG, "--cylinders", "all", "--work", "plug").stdout
    assert text.index("Ready\n") < text.index("Uncover\n") < text.index("Prove\n")
    assert "15 to 20 N·m, set 17.5 N·m (Marlet 3.4 workshop manual, 4th edition, p. 6-12)" in text
    assert "! Compressed air" in text


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["check", "/nowhere.yaml"], "/nowhere.yaml: No such file"),
        (["plan", TUG, "--cylinders", "9"], "job.cylinders: cylinder 9 does not exist"),
        (["plan", TUG, "--cylinders", "front"], "--cylinders: 'front' is not a number"),
        (["plan", TUG, "--cylinders", "1", "--work", "wash"], "--work: 'wash' is not a kind"),
        (["plan", TUG, "--cylinders", "1", "--work", ","], "--work: names no work"),
        (["plan", TUG, "--cylinders", "1", "--school", "tightening=feel"], "No one can check it"),
        (["plan", TUG, "--cylinders", "5", "--forbid", "plenum"], "no way in: coil 5 → Intake"),
    ],
)
def test_problems_go_to_stderr_with_exit_code_2(words: list[str], says: str) -> None:
    """The place and the fix, and nothing on stdout."""
    done = run(*words)
    assert done.exit_code == 2
    assert says in done.stderr
    assert done.stdout == ""


def test_a_bad_file_is_named_path_by_path(tmp_path: Path) -> None:
    """Every problem on its own line."""
    bad = document()
    bad["plugs"][0]["hex"] = "16"
    bad["banks"] = {}
    file = tmp_path / "bad.engine.yaml"
    file.write_text(yaml.safe_dump(bad))
    done = run("check", str(file))
    assert done.exit_code == 2
    assert "plugs[0].hex: '16' has no unit" in done.stderr


def test_quick_sums_work_at_the_prompt() -> None:
    """Listed, worked, as JSON, and refused with the field."""
    assert "cooling" in run("calc").stdout
    fields = ["unit=N·m", "thread=dry", "full_scale=50", "graduation=0.5", "wrench_length=320 mm"]
    worked = run("calc", "setting", "torque=20 N·m", "adapter=40 mm", *fields)
    assert worked.exit_code == 0
    assert "Set 18 N·m" in worked.stdout
    assert "320 ÷ (320 + 40" in worked.stdout
    told = json.loads(run("calc", "arc", "diameter=140 mm", "angle=10°", "--format", "json").stdout)
    asked = run("calc", "arc", "diameter=140 mm")
    assert asked.exit_code == 2
    assert "angle: Angle: nothing is filled in" in asked.stderr
    assert told["values"]["arc"] == pytest.approx(12.217)
    wrong = run("calc", "torque", "value=18 mm")
    assert wrong.exit_code == 2
    assert "value: " in wrong.stderr


def test_a_plan_can_be_asked_with_a_crib(tmp_path: Path) -> None:
    """What it lacks is named with what to get."""
    crib = tmp_path / "crib.csv"
    crib.write_text(
        "kind,drive,size,length,outside,depth,insert\nsockets,3/8,16 mm,62 mm,22 mm,52 mm,rubber\n"
    )
    done = run("plan", TUG, "--cylinders", "2", "--crib", str(crib))
    assert done.exit_code == 0
    assert "to get:" in done.stdout
    assert re.search(r"get: extension 75 mm, ⅜ in", done.stdout)
    assert run("plan", TUG, "--cylinders", "2", "--crib", str(tmp_path / "no.csv")).exit_code == 2


def test_read_says_what_a_set_of_plugs_tells(tmp_path: Path) -> None:
    """In text and as JSON; the answer is the last set the next time."""
    said = run("read", TUG, "--signs", "4=blister; 5=black,wet,oily", "--since", "320 km")
    assert said.exit_code == 0
    assert "Oil past a ring or a guide (hole 5): clear" in said.output
    data = run("read", TUG, "--signs", "4=blister; 5=black,wet,oily", "--format", "json")
    verdicts = json.loads(data.output)["verdicts"]
    fields = {"cause", "scope", "holes", "confidence", "for", "against", "tell_apart", "now"}
    assert fields | {"recheck"} <= set(verdicts[0])
    last = tmp_path / "last.json"
    last.write_text(data.output)
    again = run("read", TUG, "--signs", "4=ok; 1=blister", "--last", str(last), "--format", "json")
    changes = {c["hole"]: c["change"] for c in json.loads(again.output)["over_time"]}
    assert changes == {"1": "moved", "4": "cured", "5": "cured"}


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (("read", TUG, "--signs", "5=blster"), "did you mean blister"),
        (("read", TUG, "--signs", "9=wet"), "use one of: 1, 2, 3, 4, 5, 6"),
        (("read", TUG, "--signs", "5=wet", "--since", "5 N·m"), "no distance and no time"),
        (("read", TUG, "--signs", "5=wet", "--last", "/no/such/file"), "check the path"),
        (("read", TUG, "--signs", "5=wet", "--last", TUG), "last"),
        (("diagnose", TUG, "--codes", "P0309"), "the engine has cylinders"),
        (("diagnose", TUG, "--codes", "nonsense"), "a code is a letter"),
        (("diagnose", TUG, "--codes", "P0305", "--symptoms", "foggy"), "is no symptom"),
        (("diagnose", TUG, "--codes", "P0305", "--age", "plugs=5 N·m"), "no age"),
        (("diagnose", TUG, "--codes", "P0305", "--known", "moon"), "is no cause"),
        (("diagnose", TUG, "--codes", "P0305", "--without", "dance"), "is no test"),
        (("diagnose", TUG), "says nothing"),
    ],
)
def test_what_is_not_understood_ends_with_the_fix(words: tuple[str, ...], says: str) -> None:
    """Exit code 2, the place and the nearest words."""
    said = run(*words)
    assert (said.exit_code, says in said.output) == (2, True), said.output


LAUNCH = str(ENGINES / "fendrake-50-marine-v8.engine.yaml")


def test_leads_says_which_goes_where() -> None:
    """In text and as JSON: assignment with slack, what is short, what to buy."""
    asked = ("leads", LAUNCH, "--heap", "1: 410 mm; 2: 16 in; c: 160 mm; 4: 120 mm")
    said = run(*asked)
    assert said.exit_code == 0
    assert "for the main coil: 30 mm over its way of 130 mm" in said.output
    data = json.loads(run(*asked, "--format", "json").output)
    assert {"hole", "lead", "length", "way", "run", "slack", "like"} <= set(data["assignment"][0])
    assert len(data["short"]) == len(data["buy"]) == 6
    assert data["left_over"] == ["4"]
    wrong = run("leads", LAUNCH, "--heap", "1: 410")
    assert (wrong.exit_code, "has no unit" in wrong.output) == (2, True)


def test_ring_says_what_is_wrong() -> None:
    """In text and as JSON: the mistake, the swaps, what lies side by side."""
    found = "tower 1: 1; tower 2: 8; 3: 3; 4: 4; 5: 6; 6: 5; 7: 7; 8: 2"
    said = run("ring", LAUNCH, "--found", found)
    assert said.exit_code == 0
    assert said.output.startswith("Leads of 3 and 4 are crossed")
    data = json.loads(run("ring", LAUNCH, "--found", found, "--format", "json").output)
    assert data["mistake"]["kind"] == "crossed"
    assert [(s["towers"], s["holes"]) for s in data["swaps"]] == [([3, 4], ["3", "4"])]
    assert [one["holes"] for one in data["side_by_side"]] == [["4", "8"]]
    wrong = run("ring", TUG, "--found", "1: 1")
    assert (wrong.exit_code, "states no towers" in wrong.output) == (2, True)


def test_diagnose_says_what_to_do_next() -> None:
    """In text and as JSON: what leads, causes, the tree, beside what others would do."""
    codes = ("diagnose", TUG, "--codes", "P0305,P0355,P0015")
    said = run(*codes)
    assert said.exit_code == 0
    assert "P0305 leads" in said.output
    assert "no strategy takes less" in said.output
    data = json.loads(run(*codes, "--format", "json").output)
    assert data["leading"]["code"] == "P0305"
    assert [c["code"] for c in data["pointing"]] == ["P0355"]
    assert [c["code"] for c in data["consequences"]] == ["P0015"]
    assert {"key", "cylinder", "probability", "for", "against"} <= set(data["causes"][0])
    assert data["proven_optimal"]
    assert data["expected_minutes"] < data["baselines"]["plugs_then_coils"]
    node = {"act", "kind", "minutes_own", "minutes_access", "opens", "outcomes"}
    assert node <= set(data["tree"])
    worn = json.loads(
        run(
            "diagnose", TUG, "--codes", "P0305", "--age", "plugs=160000km", "--format", "json"
        ).output
    )
    assert worn["kind"] == "one-worn"


def test_work_at_no_hole_is_planned_too() -> None:
    """Without a cylinder, or beside some; what is asked wrongly is told with its fix."""
    four = str(ENGINES / "ostler-16-flat-four.engine.yaml")
    timed = run("plan", four, "--cylinders", "none", "--work", "timing", "--format", "json")
    assert timed.exit_code == 0
    keys = [step["key"] for step in json.loads(timed.stdout)["steps"]]
    assert "time/static" in keys
    assert not any(key.startswith("remove/plug") for key in keys)
    both = run("plan", four, "--cylinders", "1,3", "--work", "plug,cap,rotor")
    assert both.exit_code == 0
    assert "Plug, holes 1 and 3; distributor cap and rotor" in both.stdout
    for words, told in (
        (("none", "plug"), "names no cylinder"),
        (("1", "cap@2"), "done at no hole"),
        (("1", "polish"), "is not a kind of work"),
        (("none", "pack"), "needs a coil pack"),
    ):
        wrong = run("plan", four, "--cylinders", words[0], "--work", words[1])
        assert wrong.exit_code == 2, words
        assert told in wrong.output, words


def test_advise_says_what_else_is_worth_doing() -> None:
    """Text for people, JSON as a contract; readings that are not understood are named."""
    asked = ("advise", TUG, "--cylinders", "5", "--work", "plug")
    ran = ("--meter", "160000 km", "--fitted", "0 km; coil=90000 km")
    said = run(*asked, *ran)
    assert said.exit_code == 0
    assert "Plugs of the rear bank now: " in said.output
    data = json.loads(run(*asked, *ran, "--format", "json").output)
    whole = {
        "work",
        "cylinder",
        "extra_minutes",
        "own_minutes",
        "later_minutes",
        "now_cost",
        "later_cost",
        "break_even",
        "advice",
        "because",
    }
    assert all(whole <= set(one) for one in (*data["items"], *data["groups"]))
    coil = next(one for one in data["items"] if (one["work"], one["cylinder"]) == ("coil", 2))
    even = coil["break_even"]
    assert re.fullmatch(r"[\d.]+ km", even)
    again = json.loads(
        run(*asked, "--meter", even, "--fitted", "0 km; coil=90000 km", "--format", "json").output
    )
    same = next(one for one in again["items"] if (one["work"], one["cylinder"]) == ("coil", 2))
    assert same["now_cost"] == pytest.approx(same["later_cost"], abs=0.05)
    assert run(*asked).exit_code == 0


@pytest.mark.parametrize(
    ("more", "told"),
    [
        (("--meter", "far"), "meter: "),
        (("--meter", "12 mm"), "is no reading"),
        (("--meter", "9 to 12 km"), "is no reading"),
        (("--meter", "900 h", "--fitted", "5 km"), "in km and in hours"),
        (("--meter", "900 h", "--fitted", "950 h"), "fitted after 900 h"),
        (("--meter", "900 h", "--fitted", "zip=5 h"), "'zip' is nothing of this sheet"),
        (("--meter", "900 h", "--fitted", "plug/9=5 h"), "cylinder 9 does not exist"),
        (("--meter", "900 h", "--fitted", "a=b=c"), "is not understood"),
        (("--meter", "9000000 km"), "cannot be"),
        (("--work", "wobble"), "is not a kind of work"),
        (("--school", "waste=all"), "waste"),
    ],
)
def test_advise_names_what_is_not_understood(more: tuple[str, ...], told: str) -> None:
    """Exit code 2, the field and the fix."""
    said = run("advise", TUG, "--cylinders", "5", *more)
    assert said.exit_code == 2
    assert told in said.output


@pytest.mark.parametrize(
    ("more", "size"),
    [((), b"841.8"), (("--paper", "Letter"), b"612"), (("--form", "card"), b"419.5")],
)
def test_a_sheet_is_written_without_a_database(
    tmp_path: Path, more: tuple[str, ...], size: bytes
) -> None:
    """The job sheet on either paper, or the card for the wing."""
    out = tmp_path / "sheet.pdf"
    words = ("sheet", TUG, "--cylinders", "2,4,6", "--variant", "late", "--out", str(out))
    said = run(*words, *more)
    assert said.exit_code == 0, said.output
    assert "Plug and coil, holes 2, 4 and 6, 47 min" in said.output
    paper = out.read_bytes()
    assert paper.startswith(b"%PDF")
    assert size in opened(paper)


def test_where_a_sheet_cannot_be_written_is_told(tmp_path: Path) -> None:
    """With what to do."""
    out = tmp_path / "nowhere" / "sheet.pdf"
    said = run("sheet", TUG, "--cylinders", "2", "--variant", "late", "--out", str(out))
    assert said.exit_code == 2
    assert "choose another --out" in said.output


def test_companion_work_is_planned_by_its_key() -> None:
    """Alone, or beside plugs; what is none is refused with what there is."""
    alone = json.loads(
        run("plan", TUG, "--cylinders", "none", "--work", "air-filter", "--format", "json").output
    )
    assert alone["job"]["companions"] == ["air-filter"]
    both = run("plan", TUG, "--cylinders", "5", "--work", "plug,rear-cover-gasket")
    assert "Plug, hole 5; rear cam cover gasket" in both.output
    wrong = run("plan", TUG, "--cylinders", "5", "--work", "air-filtre")
    assert wrong.exit_code == 2
    assert "air-filter" in wrong.output
    at_holes = run("plan", TUG, "--cylinders", "5", "--work", "air-filter@5")
    assert "is done at no hole" in at_holes.output
