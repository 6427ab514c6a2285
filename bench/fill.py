"""Fills a database with years of a large workshop, by the database itself: minutes, not hours.

Everything is a copy of what the demo has: sheets, an edition, and the runs of its two years with
all that is learnt from them, under other ids, titles and days, so that every page reads what it
would read in life.
"""

import time
from dataclasses import dataclass

from sqlalchemy import Connection, Engine, text

from eldrim.demo.load import load
from eldrim.demo.years import load_years
from eldrim.store import upkeep
from eldrim.store.database import connect, ensure_database, migrate, sessions

FROM = "marlet-34-v6"
# So many runs the generator of the demo makes; they are there again as often as it takes.
RUNS_OF_YEARS = 315


@dataclass(frozen=True)
class Size:
    """How much of each."""

    engines: int = 250
    procedures: int = 10_000
    runs: int = 100_000
    open_runs: int = 60


def fill(url: str, size: Size) -> float:
    """Make the database at ``url`` with the demo and so much more in it; seconds it took."""
    begun = time.perf_counter()
    ensure_database(url)
    engine = connect(url)
    migrate(engine)
    with sessions(engine).begin() as session:
        if load(session):
            load_years(session)
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
    steps = (_sheets, _editions, _units, _runs, _lessons, _open, _words)
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


def _copies_of_years(size: Size) -> int:
    """How often the two years are there again."""
    return max(1, round(size.runs / RUNS_OF_YEARS))


def _units(writing: Connection, size: Size) -> None:
    writing.execute(
        text(
            "INSERT INTO units (id, name, engine_id, variant, serial, meter, letters, told_by, "
            "stop_cost, severe, place, dues_known) SELECT id || '-' || n, name || ' no. ' || n, "
            "engine_id, variant, serial || '-' || n, meter, letters, told_by, stop_cost, severe, "
            "place, true FROM units, generate_series(1, :copies) AS n "
            "WHERE id IN (SELECT unit_id FROM runs)"
        ),
        {"copies": _copies_of_years(size)},
    )


def _runs(writing: Connection, size: Size) -> None:
    """The runs of the two years again and again, each on a unit of its own, some hours apart."""
    about = {"copies": _copies_of_years(size)}
    runs = "generate_series(1, :copies) AS n WHERE signed_at IS NOT NULL"
    writing.execute(
        text(
            "INSERT INTO runs (id, edition_id, unit_id, by, at, signed_at, bay, unfinished, "
            "serial, hands, marks, meter, gathered, found, parts, said, took, cost_planned, "
            "cost_real) "
            "SELECT md5(id::text || n)::uuid, edition_id, unit_id || '-' || n, by, "
            "at - n * interval '7 minutes', signed_at - n * interval '7 minutes', bay, unfinished, "
            "serial || '-' || n, hands, marks, meter, true, found, parts, said, took, "
            f"cost_planned, cost_real FROM runs, {runs}"
        ),
        about,
    )
    writing.execute(
        text(
            "INSERT INTO entries (id, run_id, body, by, role, at) SELECT md5(id::text || n)::uuid, "
            "md5(run_id::text || n)::uuid, "
            "jsonb_set(body, '{id}', to_jsonb(md5(id::text || n)::uuid::text)), by, role, "
            "at - n * interval '7 minutes' FROM (SELECT * FROM entries ORDER BY seq) one, "
            "generate_series(1, :copies) AS n"
        ),
        about,
    )


def _lessons(writing: Connection, size: Size) -> None:
    """What those runs leave to learn from, and what is due by them."""
    about = {"copies": _copies_of_years(size)}
    again = "generate_series(1, :copies) AS n"
    writing.execute(
        text(
            "INSERT INTO run_digests (run_id, engine_id, procedure_id, search, signed_at, document)"
            " SELECT md5(run_id::text || n)::uuid, engine_id, procedure_id, search, "
            f"signed_at - n * interval '7 minutes', document FROM run_digests, {again}"
        ),
        about,
    )
    writing.execute(
        text(
            "INSERT INTO fitted_parts (unit_id, engine_id, thing, hole, number, counts, run_id, at,"
            " meter, gap, read_meter, read_gap, out_run_id, out_at, out_meter, failed, "
            "why) "
            "SELECT unit_id || '-' || n, engine_id, thing, hole, number, counts, "
            "md5(run_id::text || n)::uuid, at - n * interval '7 minutes', meter, gap, read_meter, "
            "read_gap, md5(out_run_id::text || n)::uuid, out_at - n * interval '7 minutes', "
            f"out_meter, failed, why FROM fitted_parts, {again}"
        ),
        about,
    )
    writing.execute(
        text(
            "UPDATE part_kinds SET fitted = fitted * (1 + :copies), failed = failed * (1 + :copies)"
        ),
        about,
    )
    writing.execute(
        text(
            'INSERT INTO dues (run_id, unit_id, kind, what, "on", meter, set_at, first, until, '
            "thing, at, why, band, looks) SELECT md5(run_id::text || n)::uuid, unit_id || '-' || n,"
            ' kind, what, "on" + n % 300, meter, set_at, first + n % 300, until + n % 300, thing, '
            f"at, why, band, looks FROM dues, {again}"
        ),
        about,
    )


def _open(writing: Connection, size: Size) -> None:
    """Runs that go on: each a third through the longest run there is."""
    about = {"open": size.open_runs, "template": _template(writing)}
    writing.execute(
        text(
            "INSERT INTO runs (id, edition_id, unit_id, by, at, bay, serial, hands, marks) "
            "SELECT ('00000000-0000-4000-a000-' || lpad(to_hex(n), 12, '0'))::uuid, edition_id, "
            "unit_id || '-' || n, by, now() - n * interval '3 minutes', bay, serial, hands, '{}' "
            "FROM runs, generate_series(1, :open) AS n WHERE id = :template"
        ),
        about,
    )
    writing.execute(
        text(
            "INSERT INTO entries (id, run_id, body, by, role, at) "
            "SELECT id, run_id, jsonb_set(body, '{id}', to_jsonb(id::text)), by, role, at FROM ("
            "SELECT gen_random_uuid() AS id, runs.id AS run_id, body, one.by, role, "
            "runs.at + one.place * interval '1 second' AS at FROM runs, (SELECT *, row_number() "
            "OVER (ORDER BY seq) AS place FROM entries WHERE run_id = :template LIMIT 20) one "
            "WHERE runs.id::text LIKE '00000000-0000-4000-a000-%' ORDER BY runs.at, place) made"
        ),
        about,
    )


def _template(writing: Connection) -> object:
    """The demo's signed run with the most entries."""
    return writing.scalar(
        text(
            "SELECT run_id FROM entries JOIN runs ON runs.id = run_id WHERE signed_at IS NOT NULL "
            "AND unit_id !~ '-[0-9]+-[0-9]+$' GROUP BY run_id ORDER BY count(*) DESC LIMIT 1"
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
                "WHERE id LIKE 'large-%' OR id ~ '-[0-9]+-[0-9]+$'"
            )
        )
    writing.execute(
        text(
            "INSERT INTO search_entries (owner, kind, address, title, body) "
            "SELECT 'run/' || id, 'finding', '/log/' || id, 'Hole ' || (1 + length(unit_id) % 6) "
            "|| ': plug worn', unit_id || ' ' || serial FROM runs WHERE unit_id ~ '-[0-9]+-[0-9]+$'"
        )
    )
