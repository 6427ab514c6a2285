"""The command line: check a file, plan a job, work out a sum; serve, back up, restore, verify."""

import json
import os
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Literal, NoReturn, TypeVar

import typer
from pydantic import BaseModel, ValidationError

from eldrim.core.base.errors import EldrimError, Problem, ProblemsError
from eldrim.core.engine import Engine
from eldrim.core.faults.answer import as_text as diagnosis_text
from eldrim.core.interval.answer import as_text as advice_text
from eldrim.core.interval.weigh import JobMinutes, minutes_of
from eldrim.core.job import Job, Work, carrier
from eldrim.core.leads.answer import heap_text, ring_text
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.job.minutes import minutes_number
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.procedure.whole_job.tool_words import tool_words
from eldrim.core.reading.answer import as_text as reading_text
from eldrim.core.rules.house import DEFAULT_RULES, HouseRules
from eldrim.core.sums import SUMS, Sum, work_out
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.core.words import say
from eldrim.core.words.language import speaking
from eldrim.exchange.advice import AdviceQuestion, answer_advice
from eldrim.exchange.crib_table import read_csv
from eldrim.exchange.diagnoses import ComplaintQuestion, Shop, answer_diagnosis
from eldrim.exchange.engine_file import read_engine
from eldrim.exchange.leads import HeapQuestion, RingQuestion, answer_heap, answer_ring
from eldrim.exchange.model_faults import fault_words
from eldrim.exchange.readings import ReadingQuestion, answer_reading, read_last

if TYPE_CHECKING:
    from eldrim.printing.job_sheet import Paper
    from eldrim.server.settings import Settings

app = typer.Typer(
    help="Eldrim: spark-plug and coil procedures, computed.",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
)


@app.command()
def check(file: Path) -> None:
    """Say whether FILE is a consistent engine sheet; list every problem otherwise."""
    engine = _read(file)
    typer.echo(
        f"{engine.title}, sheet revision {engine.revision}: consistent; "
        f"{len(engine.cylinders)} cylinders, {len(engine.parts)} parts, "
        f"{len(engine.hindrances)} hindrances, every hole can be reached."
    )


@app.command()
def plan(  # noqa: PLR0913 - the options of a command
    file: Path,
    cylinders: Annotated[
        str, typer.Option(help="Cylinder numbers, as 1,3,5, or 'all', or 'none' for other work.")
    ],
    work: Annotated[
        str, typer.Option(help="plug, coil or lead, as plug,coil@5+6; default all that fit.")
    ] = "",
    variant: Annotated[str, typer.Option(help="Needed where the sheet has several.")] = "",
    force: Annotated[list[str], typer.Option(help="A way to take, as part/way.")] = [],  # noqa: B006
    forbid: Annotated[list[str], typer.Option(help="A part or way to leave.")] = [],  # noqa: B006
    without: Annotated[list[str], typer.Option(help="A special tool we lack.")] = [],  # noqa: B006
    school: Annotated[list[str], typer.Option(help="A house rule, as topic=school.")] = [],  # noqa: B006
    tools: Annotated[Path | None, typer.Option("--crib", help="The crib as CSV.")] = None,
    form: Annotated[Literal["text", "json"], typer.Option("--format")] = "text",
) -> None:
    """Compute the procedure for a job on the engine in FILE."""
    engine, crib = _read(file), _crib(tools)
    try:
        job = _job(engine, cylinders, work, variant).model_copy(
            update={"force": tuple(force), "forbid": tuple(forbid), "without_tools": tuple(without)}
        )
        made = compile_plan(engine, job, _rules(school), crib)
    except ProblemsError as error:
        _fail(error.problems)
    if form == "json":
        typer.echo(json.dumps(made.model_dump(mode="json"), ensure_ascii=False, indent=2))
    else:
        typer.echo(as_text(made))


@app.command()
def sheet(  # noqa: PLR0913 - the options of a command
    file: Path,
    cylinders: Annotated[
        str, typer.Option(help="Cylinder numbers, as 1,3,5, or 'all', or 'none' for other work.")
    ],
    out: Annotated[Path, typer.Option(help="The PDF to write.")],
    work: Annotated[
        str, typer.Option(help="plug, coil or lead, as plug,coil@5+6; default all that fit.")
    ] = "",
    variant: Annotated[str, typer.Option(help="Needed where the sheet has several.")] = "",
    school: Annotated[list[str], typer.Option(help="A house rule, as topic=school.")] = [],  # noqa: B006
    tools: Annotated[Path | None, typer.Option("--crib", help="The crib as CSV.")] = None,
    paper: Annotated[Literal["A4", "Letter"], typer.Option(help="What it is printed on.")] = "A4",
    form: Annotated[
        Literal["sheet", "long", "card"],
        typer.Option(help="The job sheet, the long form with drawings, or the card for the wing."),
    ] = "sheet",
) -> None:
    """Write the job sheet for a job on the engine in FILE as PDF, without a database."""
    engine, crib = _read(file), _crib(tools)
    try:
        made = compile_plan(engine, _job(engine, cylinders, work, variant), _rules(school), crib)
    except ProblemsError as error:
        _fail(error.problems)
    try:
        out.write_bytes(_on_paper(made, engine, form, paper))
    except OSError as error:
        _fail([Problem(str(out), error.strerror or "cannot be written", "choose another --out")])
    typer.echo(f"{out}: {made.title}, {minutes_number(made.minutes)} min")


def _on_paper(
    made: Plan, engine: Engine, form: Literal["sheet", "long", "card"], paper: "Paper"
) -> bytes:
    """The paper asked for of a plan that nobody has released."""
    from eldrim.printing import job_sheet, long_form, wing_card

    with speaking(made.job.language):
        words, released = say("sheet.computed"), say("sheet.unreleased")
    about = job_sheet.Edition(words, released)
    if form == "card":
        return wing_card.pdf(made, about)
    if form == "long":
        return long_form.pdf(made, engine, words, released, {})
    return job_sheet.pdf(made, engine, about, paper)


@app.command()
def calc(
    sum_: Annotated[str, typer.Argument(metavar="SUM", help="Which sum; none lists them.")] = "",
    given: Annotated[list[str], typer.Argument(metavar="FIELD=VALUE")] = [],  # noqa: B006
    form: Annotated[Literal["text", "json"], typer.Option("--format")] = "text",
) -> None:
    """Work out a quick sum: eldrim calc torque value='18 lbf·ft'."""
    if not sum_:
        typer.echo("\n".join(f"{s.key:9} {s.name}: {_asked(s)}" for s in SUMS.values()))
        return
    try:
        answer = work_out(sum_, dict(g.partition("=")[::2] for g in given))
    except ProblemsError as error:
        _fail(error.problems)
    if form == "json":
        typer.echo(json.dumps(answer.model_dump(mode="json"), ensure_ascii=False, indent=2))
    else:
        lines = [answer.result, f"  {answer.formula}", *(f"  = {w}" for w in answer.working)]
        typer.echo("\n".join([*lines, f"  ({answer.source})"]))


@app.command()
def read(  # noqa: PLR0913 - the options of a command
    file: Path,
    signs: Annotated[str, typer.Option(help="What was seen: '4=blister; 5=black,wet,oily'.")],
    since: Annotated[str, typer.Option(help="Run since they were fitted: '320 km', '5 h'.")] = "",
    known: Annotated[str, typer.Option(help="stale, idling, new, repaired; apart by commas.")] = "",
    last: Annotated[Path | None, typer.Option(help="The set before: an earlier answer.")] = None,
    variant: Annotated[str, typer.Option(help="Where the sheet has several.")] = "",
    form: Annotated[Literal["text", "json"], typer.Option("--format")] = "text",
) -> None:
    """Say what a set of plugs tells, with its reasons and its doubt.

    A hole that is not named showed nothing; hole=? says that it was not read, rest=… what all
    the others show. Signs: tan, white, black, soot, red, yellow, crust, steam-clean, blister,
    specks, dry, wet, oily, fuel-smell, varnish-smell, rounded, strap-worn, centre-worn, melted,
    gap-wide, gap-closed, tip-bent, cracked, track, stain, stain-streaked, ring-uneven, two-rings,
    ring-missing, blow-by, loose, thread-carbon, thread-rust, stiff, shell-rust, well-oil,
    well-water, boot-oily, boot-torn, boot-burnt, spring-stretched, coil-cracked, coil-bulged,
    coil-burnt, rusty-foot, pins-bent, pins-green; or a gap, as 1.3 mm.
    """
    engine = _read(file)
    with _said():
        before = read_last(last.read_bytes()) if last else None
        question = ReadingQuestion(
            signs=signs,
            since=since,
            last=before,
            variant=variant,
            known=[word for word in known.split(",") if word.strip()],
        )
        _print(answer_reading(engine, question), form, reading_text)


@app.command()
def diagnose(  # noqa: PLR0913 - the options of a command
    file: Path,
    codes: Annotated[str, typer.Option(help="Fault codes: P0305,P0355.")] = "",
    signs: Annotated[str, typer.Option(help="Seen at the holes: '5=track'.")] = "",
    symptoms: Annotated[
        str, typer.Option(help="cold, hot, wet, load, idle, smell, after-job; apart by commas.")
    ] = "",
    age: Annotated[str, typer.Option(help="plugs=160000km")] = "",
    without: Annotated[list[str], typer.Option(help="A test struck out.")] = [],  # noqa: B006
    lacking: Annotated[list[str], typer.Option(help="A tool that is missing.")] = [],  # noqa: B006
    prices: Annotated[str, typer.Option(help="'coil=180; plug=12': other than usual.")] = "",
    known: Annotated[str, typer.Option(help="A cause taken as known.")] = "",
    variant: Annotated[str, typer.Option(help="Where the sheet has several.")] = "",
    school: Annotated[list[str], typer.Option(help="A house rule, as topic=school.")] = [],  # noqa: B006
    tools: Annotated[Path | None, typer.Option("--crib", help="The crib as CSV.")] = None,
    form: Annotated[Literal["text", "json"], typer.Option("--format")] = "text",
) -> None:
    """Say what a complaint most likely comes from, and which test or repair to do next.

    The order that costs least on this engine, from first test to proven cure, the way in counted.
    """
    engine, crib = _read(file), _crib(tools)
    with _said():
        question = ComplaintQuestion(
            codes=codes,
            signs=signs,
            symptoms=symptoms.split(","),
            age=age,
            without=without,
            lacking=lacking,
            prices=prices,
            known=known,
            variant=variant,
        )
        answer = answer_diagnosis(engine, question, Shop(_rules(school), crib))
        _print(answer, form, diagnosis_text)


@app.command()
def advise(  # noqa: PLR0913 - the options of a command
    file: Path,
    cylinders: Annotated[str, typer.Option(help="Of the job: 1,3,5, or 'all', or 'none'.")],
    meter: Annotated[str, typer.Option(help="Where the meter stands: '160000 km', '900 h'.")] = "",
    fitted: Annotated[
        str, typer.Option(help="Where it stood then: '0 km; coil=90000 km; plug/3=120000 km'.")
    ] = "",
    work: Annotated[str, typer.Option(help="Of the job, as for plan.")] = "",
    severe: Annotated[bool, typer.Option(help="The unit is in severe use.")] = False,
    stop_cost: Annotated[float | None, typer.Option(help="Of an unplanned stop.")] = None,
    next_visit: Annotated[str, typer.Option(help="How much further on: '30000 km'.")] = "",
    variant: Annotated[str, typer.Option(help="Needed where the sheet has several.")] = "",
    school: Annotated[list[str], typer.Option(help="A house rule, as topic=school.")] = [],  # noqa: B006
    tools: Annotated[Path | None, typer.Option("--crib", help="The crib as CSV.")] = None,
    form: Annotated[Literal["text", "json"], typer.Option("--format")] = "text",
) -> None:
    """Say what else is worth doing while the way in of a job is open: now or later, and why."""
    engine, crib = _read(file), _crib(tools)
    with _said():
        rules = _rules(school)
        question = AdviceQuestion(
            meter=meter, fitted=fitted, severe=severe, stop_cost=stop_cost, next_visit=next_visit
        )
        job = _job(engine, cylinders, work, variant)

        def weigh(asked: Job) -> JobMinutes:
            return minutes_of(compile_plan(engine, asked, rules, crib, at_once=True))

        _print(answer_advice(engine, job, question, rules, weigh), form, advice_text)


@app.command()
def leads(
    file: Path,
    heap: Annotated[str, typer.Option(help="What lies on the bench: '1: 410 mm; 2: 380 mm'.")],
    form: Annotated[Literal["text", "json"], typer.Option("--format")] = "text",
) -> None:
    """Say which lead of a heap goes where, so that none is short, none too long, slack is least."""
    engine = _read(file)
    with _said():
        _print(answer_heap(engine, HeapQuestion(heap=heap), DEFAULT_RULES), form, heap_text)


@app.command()
def ring(
    file: Path,
    found: Annotated[str, typer.Option(help="As found: 'tower 1: 1; tower 2: 3'.")],
    form: Annotated[Literal["text", "json"], typer.Option("--format")] = "text",
) -> None:
    """Say what is wrong with the order of the leads, and the fewest swaps that mend it."""
    engine = _read(file)
    with _said():
        _print(answer_ring(engine, RingQuestion(found=found)), form, ring_text)


Answer = TypeVar("Answer", bound=BaseModel)


def _print(answer: Answer, form: str, as_text: Callable[[Answer], str]) -> None:
    """The answer as its contract in JSON, or as text for people."""
    if form == "json":
        document = answer.model_dump(mode="json", by_alias=True)
        typer.echo(json.dumps(document, ensure_ascii=False, indent=2))
    else:
        typer.echo(as_text(answer))


@contextmanager
def _said() -> Iterator[None]:
    """What is not understood of a question ends the command with every place and its fix."""
    try:
        yield
    except OSError as error:
        said = error.strerror or "cannot be read"
        _fail([Problem(str(error.filename), said, "check the path")])
    except ValidationError as error:
        _fail([Problem(str(f["loc"][0]), fault_words(f), "shorten it") for f in error.errors()])
    except ProblemsError as error:
        _fail(error.problems)


Config = Annotated[Path | None, typer.Option(help="A TOML file of settings.")]
DatabaseUrl = Annotated[
    str | None, typer.Option(help="postgresql://…; default: one of our own on this machine.")
]
Home = Annotated[Path | None, typer.Option(help="The folder of our own PostgreSQL.")]


@app.command()
def serve(  # noqa: PLR0913 - the options of a command
    config: Config = None,
    database_url: DatabaseUrl = None,
    home: Home = None,
    host: Annotated[str | None, typer.Option(help="Default 127.0.0.1.")] = None,
    port: Annotated[int | None, typer.Option(help="Default 8400.")] = None,
    workers: Annotated[int | None, typer.Option(help="Processes; default 1.")] = None,
    tls_cert: Annotated[Path | None, typer.Option(help="Certificate chain, PEM.")] = None,
    tls_key: Annotated[Path | None, typer.Option(help="Its key, PEM.")] = None,
    trusted_proxy: Annotated[str | None, typer.Option(help="Addresses of a proxy of ours.")] = None,
    allowed_hosts: Annotated[str | None, typer.Option(help="Names we answer to.")] = None,
    secure_cookies: Annotated[bool | None, typer.Option(help="TLS ends before us.")] = None,
    log_format: Annotated[Literal["words", "json"] | None, typer.Option()] = None,
    zone: Annotated[str | None, typer.Option(help="Of the shop's clock: Europe/Dublin.")] = None,
) -> None:
    """Serve a workshop of your own. Each option may also be ELDRIM_… or in the TOML file."""
    said = {key: value for key, value in locals().items() if key != "config"}
    with _words_for_faults():
        settings = _settings(config, **said)
        # The clock on the wall is read with the first page, in every process.
        os.environ["ELDRIM_ZONE"] = settings.zone
        from eldrim.server.serve import serve as run

        run(settings, typer.echo)


@app.command()
def backup(
    file: Path, config: Config = None, database_url: DatabaseUrl = None, home: Home = None
) -> None:
    """Write everything to FILE, and prove that it can be restored."""
    with _words_for_faults(), _database(config, database_url, home) as url:
        from eldrim.server.backup import backup as run

        typer.echo(f"{file}: {run(url, file).words()}; restored beside and compared.")


@app.command()
def verify(
    file: Path, config: Config = None, database_url: DatabaseUrl = None, home: Home = None
) -> None:
    """Restore FILE into a scratch database and compare every table with what it says."""
    with _words_for_faults(), _database(config, database_url, home) as url:
        from eldrim.server.backup import verify as run

        typer.echo(f"{file}: {run(url, file).words()}; restored beside and compared.")


@app.command()
def restore(
    file: Path, config: Config = None, database_url: DatabaseUrl = None, home: Home = None
) -> None:
    """Put what FILE holds in the place of the database; servers may run on."""
    with _words_for_faults(), _database(config, database_url, home) as url:
        from eldrim.server.backup import restore as run

        contents, before = run(url, file)
        kept = f" What was there before is kept as database {before}." if before else ""
        typer.echo(f"{file}: {contents.words()}; restored and compared.{kept}")


@contextmanager
def _words_for_faults() -> Iterator[None]:
    """Say in words what goes wrong, and end with a code that is not nought."""
    from eldrim.store.cluster import ClusterError

    try:
        yield
    except ProblemsError as error:
        _fail(error.problems)
    except (EldrimError, ClusterError) as error:
        typer.echo(str(error), err=True)
        raise typer.Exit(1) from None
    except KeyboardInterrupt:
        raise typer.Exit(0) from None


def _settings(config: Path | None, **said: object) -> "Settings":
    from eldrim.server.settings import read_settings

    named = config or (Path(os.environ["ELDRIM_CONFIG"]) if "ELDRIM_CONFIG" in os.environ else None)
    return read_settings(named, **said)


@contextmanager
def _database(config: Path | None, url: str | None, home: Path | None) -> Iterator[str]:
    from eldrim.server.serve import database

    with database(_settings(config, database_url=url, home=home)) as address:
        yield address


def _asked(chosen: Sum) -> str:
    return " ".join(f"{field.name}='{field.example}'" for field in chosen.fields)


def _crib(file: Path | None) -> Crib:
    if file is None:
        return STANDARD_CRIB
    try:
        return read_csv(file.read_bytes())
    except OSError as error:
        _fail([Problem(str(file), error.strerror or "cannot be read", "check the path")])
    except ProblemsError as error:
        _fail(error.problems)


def as_text(made: Plan) -> str:
    """The plan as a person reads it in a terminal."""
    lines = [f"{made.engine_name}, {made.variant_name}: {made.title}", ""]
    lines += [
        f"  {move.number}. {move.name} ({move.what}): {move.why}, {move.minutes:g} min"
        for move in made.moves
    ]
    lines += [
        f"     or: {other.words}, {other.minutes:+g} min, risk {other.risk:+g} min"
        for other in made.alternatives
    ]
    phase = None
    for number, step in enumerate(made.steps, 1):
        if step.phase is not phase:
            phase = step.phase
            lines += ["", phase.value]
        lines += _step_lines(number, step)
    over = made.access_minutes + made.change_minutes - made.least_sum
    proven = "no cheaper job" if made.proven_optimal else f"at most {over:.1f} min over the least"
    parts = (
        f"way in with its risks {made.access_minutes:g} min + set-ups {made.change_minutes:g} min"
    )
    proven += f" ({parts})"
    lines += ["", f"{made.minutes:g} min, {made.tool_changes} changes of set-up; {proven}."]
    lines += ["Tools: " + "; ".join(tool.name for tool in made.tools)]
    lines += [f"  to get: {i.name}: {i.missing}; {i.cure}" for i in made.roll if i.missing]
    lines += [f"{want.words}: {want.minutes:g} min less." for want in made.wants]
    lines += [f"Open: {point.text}" for point in made.open_points]
    lines += [
        "Parts: "
        + "; ".join(f"{part.quantity} × {part.name} {part.part_number}" for part in made.parts)
    ]
    return "\n".join([*lines, "", made.defers_to])


def _step_lines(number: int, step: Step) -> list[str]:
    lines = [f"  {number:3d}. {step.text}  [{step.key}, {step.minutes:g} min]"]
    if step.tools:
        lines.append(f"       with {tool_words(step)}")
    for figure in step.figures:
        setting = f", set {figure.setting.text}" if figure.setting else ""
        lines.append(f"       {figure.name} {figure.printed}{setting} ({figure.source})")
        lines += [f"         = {line}" for line in figure.sum]
    lines += [f"       ! {caution.text}" for caution in step.cautions]
    lines += [f"       ✓ {check.text}" for check in step.checks]
    return lines


def _rules(schools: list[str]) -> HouseRules:
    pairs = dict(school.partition("=")[::2] for school in schools)
    try:
        return DEFAULT_RULES.with_schools(pairs)
    except ValidationError as error:
        said = fault_words(error.errors()[0])
        raise ProblemsError([Problem("--school", said, "see the house rules page")]) from error


def _job(engine: Engine, cylinders: str, work: str, variant: str) -> Job:
    """The job that the options ask for; raises :class:`ProblemsError` with all that is wrong."""
    pairs = [word.strip().partition("@") for word in work.split(",") if word.strip()]
    asked = [(kind, where) for kind, _, where in pairs]
    if not work:
        asked = [(carrier(engine).value, ""), (Work.PLUG.value, "")]
    problems = [p for kind, where in asked for p in _work_problems(engine, kind, where)]
    if not asked:
        problems.append(Problem("--work", "names no work", "write coil,plug"))
    numbers = [] if cylinders == "none" else list(engine.cylinders)
    if cylinders not in ("all", "none"):
        words = cylinders.split(",")
        problems += [
            Problem("--cylinders", f"'{word}' is not a number", "write 1,3,5")
            for word in words
            if not word.strip().isdigit()
        ]
        numbers = [int(word) for word in words if word.strip().isdigit()]
    if problems:
        raise ProblemsError(problems)
    return _asked_job(engine, asked, tuple(numbers), variant)


def _asked_job(
    engine: Engine, asked: list[tuple[str, str]], numbers: tuple[int, ...], variant: str
) -> Job:
    """The job of these kinds of work, each with the cylinders after its ``@``."""
    kinds = [kind for kind, _ in asked]
    at = {kind: _numbers(where) for kind, where in asked if where}
    return Job(
        cylinders=numbers,
        work=tuple(Work(kind) for kind in kinds if kind in set(Work)),
        companions=tuple(kind for kind in kinds if kind in engine.companions),
        plugs_at=at.get(Work.PLUG.value, ()),
        carriers_at=next((at[kind] for kind in at if kind != Work.PLUG), ()),
        variant=variant,
    )


def _work_problems(engine: Engine, kind: str, where: str) -> Iterator[Problem]:
    """What is wrong with one kind of work and the cylinders after its ``@``."""
    if where and not _numbers(where):
        yield Problem("--work", f"'{where}' names no cylinders", "write coil@5+6")
    if kind not in (*Work, *engine.companions):
        known = ", ".join((*Work, *engine.companions))
        yield Problem("--work", f"'{kind}' is not a kind of work", f"use {known}")
    elif where and not (kind in set(Work) and Work(kind).at_holes):
        yield Problem("--work", f"{kind} is done at no hole", f"write {kind} alone")


def _numbers(text: str) -> tuple[int, ...]:
    """Cylinders written as 5+6; none where one of them is no number."""
    words = [word.strip() for word in text.split("+")]
    return tuple(map(int, words)) if all(word.isdigit() for word in words) else ()


def _read(file: Path) -> Engine:
    try:
        return read_engine(file.read_bytes())
    except OSError as error:
        _fail([Problem(str(file), error.strerror or "cannot be read", "check the path")])
    except ProblemsError as error:
        _fail(error.problems)


def _fail(problems: list[Problem]) -> NoReturn:
    for problem in problems:
        typer.echo(str(problem), err=True)
    sys.exit(2)


if __name__ == "__main__":
    app()
