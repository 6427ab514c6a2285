"""Fills a database with years of a large workshop, by the database itself: minutes, not hours.

Everything is a copy of what the demo has: sheets, an edition and a signed run, under other ids,
titles and days, so that every page reads what it would read in life.
"""

import time
from dataclasses import dataclass

from sqlalchemy import Connection, Engine, text

from eldrim.demo.load import load
from eldrim.store import upkeep
from eldrim.store.database import connect, ensure_database, migrate, sessions

FROM = "marlet-34-v6"


@dataclass(frozen=True)
class Size:
    """How much of each."""

    engines: int = 250
    procedures: int = 10_000
    units: int = 1_000
    runs: int = 100_000
    open_runs: int = 60


def fill(url: str, size: Size) -> float:
    """Make the database at ``url`` with the demo and so much more in it; seconds it took."""
    begun = time.perf_counter()
    ensure_database(url)
    engine = connect(url)
    migrate(engine)
    with sessions(engine).begin() as session:
        load(session)
    _copies(engine, size)
    with sessions(engine).begin() as session:
        session.execute(text("SET LOCAL statement_timeout = 0"))
        upkeep.catch_up(session)
    with engine.connect().execution_options(isolation_level="AUTOCOMMIT") as asked:
        asked.execute(text("SET statement_timeout = 0"))
        asked.execute(text("VACUUM ANALYZE"))
    engine.dispose()
    return time.perf_counter() - begun


def _copies(engine: Engine, size: Size) -> None:
    steps = (_sheets, _editions, _units, _runs, _words)
    for step in steps:
        begun = time.perf_counter()
        with engine.begin() as writing:
            writing.execute(text("SET LOCAL statement_timeout = 0"))
            writing.execute(text("SET LOCAL session_replication_role = replica"))
            step(writing, size)
        print(f"  {step.__name__[1:]}: {time.perf_counter() - begun:.0f} s", flush=True)


def _sheets(writing: Connection, size: Size) -> None:
    writing.execute(
        text(
            "INSERT INTO engine_sheets (id, revision, make, name, document, by) "
            "SELECT 'large-' || n, revision, make, name || ' no. ' || n, "
            "replace(replace(document::text, '\"id\": \"' || id || '\"', "
            "'\"id\": \"large-' || n || '\"'), '\"name\": \"' || name || '\"', "
            "'\"name\": \"' || name || ' no. ' || n || '\"')::json, by "
            "FROM engine_sheets, generate_series(1, :engines) AS n WHERE id = :from"
        ),
        {"engines": size.engines, "from": FROM},
    )


def _editions(writing: Connection, size: Size) -> None:
    about = {"procedures": size.procedures, "engines": size.engines, "from": FROM}
    writing.execute(
        text(
            "INSERT INTO procedures (id, engine_id, title, job, edits, version, review, by, at, "
            "standing_id) SELECT ('00000000-0000-4000-8000-' || lpad(to_hex(n), 12, '0'))::uuid, "
            "'large-' || (1 + n % :engines), title || ', ' || n, "
            "jsonb_set(job, '{cylinders}', to_jsonb(ARRAY[1 + n % 6])), '{}', 2, '', by, "
            "now() - n * interval '1 hour', "
            "('00000000-0000-4000-9000-' || lpad(to_hex(n), 12, '0'))::uuid "
            "FROM (SELECT * FROM procedures WHERE engine_id = :from LIMIT 1) one, "
            "generate_series(1, :procedures) AS n"
        ),
        about,
    )
    writing.execute(
        text(
            "INSERT INTO editions (id, procedure_id, number, document, edits, reason, by, at) "
            "SELECT standing_id, procedures.id, 1, replace(replace(one.document, "
            "'\"engine\": \"' || :from || '\"', '\"engine\": \"' || engine_id || '\"'), "
            "'\"title\": \"' || one.title || '\"', '\"title\": \"' || procedures.title || '\"')"
            "::json, '{}', 'First edition', procedures.by, procedures.at FROM procedures, "
            "(SELECT document::text AS document, title FROM editions "
            "WHERE engine_id = :from LIMIT 1) one "
            "WHERE procedures.engine_id LIKE 'large-%'"
        ),
        about,
    )


def _units(writing: Connection, size: Size) -> None:
    writing.execute(
        text(
            "INSERT INTO units (id, name, engine_id, variant, serial, meter, letters, told_by, "
            "dues_known) SELECT 'tug-' || (1000 + n), 'Tug ' || (1000 + n), "
            "'large-' || (1 + n % :engines), variant, (90000 + n)::text, meter, '', told_by, false "
            "FROM (SELECT * FROM units WHERE id = 'tug-15') one, generate_series(1, :units) AS n"
        ),
        {"units": size.units, "engines": size.engines},
    )


def _runs(writing: Connection, size: Size) -> None:
    about = {
        "runs": size.runs,
        "all": size.runs + size.open_runs,
        "units": size.units,
        "engines": size.engines,
        "each": max(size.procedures // size.engines, 1),
    }
    # Run n is on unit 1 + n % units; its engine's procedures are those n with the same rest.
    writing.execute(
        text(
            "INSERT INTO runs (id, edition_id, unit_id, by, at, signed_at, bay, unfinished, serial,"
            " hands, marks, meter) SELECT ('00000000-0000-4000-a000-' || "
            "lpad(to_hex(n), 12, '0'))::uuid, ('00000000-0000-4000-9000-' || lpad(to_hex("
            "(1 + n % :units) % :engines + :engines * CASE WHEN (1 + n % :units) % :engines = 0 "
            "THEN 1 + (n / :units) % (:each - 1) ELSE (n / :units) % :each END), 12, '0'))::uuid, "
            "'tug-' || (1001 + n % :units), one.by, "
            "now() - n * interval '25 minutes' - interval '2 hours', "
            "CASE WHEN n <= :runs THEN now() - n * interval '25 minutes' END, '', "
            "n % 997 = 0, (90001 + n % :units)::text, one.hands, "
            "CASE WHEN n % 40 = 0 THEN '{\"deviation\": 1}'::jsonb ELSE '{}' END, one.meter "
            "FROM (SELECT * FROM runs WHERE id = :template) one, generate_series(1, :all) AS n"
        ),
        {**about, "template": _template(writing)},
    )
    writing.execute(
        text(
            "INSERT INTO entries (id, run_id, body, by, role, at) "
            "SELECT id, run_id, jsonb_set(body, '{id}', to_jsonb(id::text)), by, role, at FROM ("
            "SELECT gen_random_uuid() AS id, runs.id AS run_id, body, one.by, role, "
            "runs.at + one.place * interval '1 minute' AS at FROM runs, ("
            "SELECT *, row_number() OVER (ORDER BY seq) AS place FROM entries "
            "WHERE run_id = :template ORDER BY seq LIMIT 59) one "
            "WHERE runs.id::text LIKE '00000000-0000-4000-a000-%' "
            "AND (runs.signed_at IS NOT NULL OR one.place < 20) "
            "ORDER BY runs.at, one.place) made"
        ),
        {"template": _template(writing)},
    )
    # Each is signed as the one it is copied from was.
    writing.execute(
        text(
            "INSERT INTO entries (id, run_id, body, by, role, at) "
            "SELECT id, run_id, jsonb_set(body, '{id}', to_jsonb(id::text)), by, role, at FROM ("
            "SELECT gen_random_uuid() AS id, runs.id AS run_id, one.body, one.by, one.role, "
            "signed_at AS at FROM runs, (SELECT * FROM entries WHERE run_id = :template AND "
            "body ->> 'step' = 'prove/sign') one "
            "WHERE runs.id::text LIKE '00000000-0000-4000-a000-%' AND signed_at IS NOT NULL) made"
        ),
        {"template": _template(writing)},
    )


def _template(writing: Connection) -> object:
    """The demo's signed run with the most entries."""
    return writing.scalar(
        text(
            "SELECT run_id FROM entries JOIN runs ON runs.id = run_id WHERE signed_at IS NOT NULL "
            "AND run_id::text NOT LIKE '00000000-%' GROUP BY run_id ORDER BY count(*) DESC LIMIT 1"
        )
    )


def _words(writing: Connection, size: Size) -> None:
    """What the search knows of all that."""
    writing.execute(
        text(
            "INSERT INTO search_entries (owner, kind, address, title, body) "
            "SELECT 'procedure/' || procedures.id, one.kind, '/procedures/' || procedures.id, "
            "one.title, one.body FROM procedures, (SELECT * FROM search_entries WHERE owner = ("
            "SELECT owner FROM search_entries WHERE kind = 'procedure' LIMIT 1)) one "
            "WHERE procedures.engine_id LIKE 'large-%'"
        )
    )
    for kind, table in (("unit", "units"), ("engine", "engine_sheets")):
        writing.execute(
            text(
                "INSERT INTO search_entries (owner, kind, address, title, body) "
                f"SELECT '{kind}/' || id, '{kind}', '/{kind}s/' || id, name, id FROM {table} "
                "WHERE id LIKE 'large-%' OR id LIKE 'tug-1___'"
            )
        )
    writing.execute(
        text(
            "INSERT INTO search_entries (owner, kind, address, title, body) "
            "SELECT 'run/' || id, 'finding', '/log/' || id, 'Hole ' || (1 + length(unit_id) % 6) "
            "|| ': plug worn', unit_id || ' ' || serial FROM runs WHERE id::text LIKE '00000000-%'"
        )
    )
