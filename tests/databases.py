"""Databases for tests: one PostgreSQL for all workers, one template per content of the source.

The server lives in ``var/test`` between runs, so a second run fills nothing. Its templates are
named by a hash of all that fills them; a test's database is a copy of one.
"""

import fcntl
import hashlib
import os
import shutil
from collections.abc import Callable, Collection, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from sqlalchemy import Connection, Engine, NullPool, create_engine, inspect, text

from eldrim.demo.load import load
from eldrim.demo.years import load_years
from eldrim.store.cluster import ROOT, Cluster, ClusterError, reachable_home
from eldrim.store.database import connect, ensure_database, migrate, sessions

WORKER = os.environ.get("PYTEST_XDIST_WORKER", "alone")
# Two runs at once have databases of their own: the run's name is part of theirs.
RUN = os.environ.get("PYTEST_XDIST_TESTRUNUID", f"{os.getpid():x}")[:8]
MINE = f"{RUN}_{WORKER}"
# What a filled database comes from. Pages, drawings and papers put nothing in it.
FILLED_BY = ("core", "demo", "exchange", "store", "devices")
KEPT = ROOT / "var"


@contextmanager
def alone_at(name: str, *, shared: bool = False, wait: bool = True) -> Iterator[None]:
    """Hold a lock of all test processes of this checkout; ``BlockingIOError`` where others do."""
    KEPT.mkdir(exist_ok=True)
    with (KEPT / f"{name}.lock").open("w") as file:
        kind = fcntl.LOCK_SH if shared else fcntl.LOCK_EX
        fcntl.flock(file, kind if wait else kind | fcntl.LOCK_NB)
        yield


def shared_cluster() -> Cluster:
    """The server of all workers, running; its data may be lost, so it writes quickly."""
    cluster = Cluster(reachable_home(KEPT / "test"), durable=False)
    with alone_at("test-server"):
        try:
            cluster.start()
        except ClusterError:
            # What a broken-off run left behind is worth nothing.
            shutil.rmtree(cluster.home, ignore_errors=True)
            cluster.start()
    return cluster


def stop_if_last() -> None:
    """Stop the server unless another run uses it, and drop what broken-off runs left in it."""
    cluster = Cluster(reachable_home(KEPT / "test"), durable=False)
    if not cluster.home.exists():
        return
    with suppress(BlockingIOError), alone_at("test-used", wait=False):
        if cluster.running:
            with asking(cluster) as server:
                for name in names(server):
                    if name not in ("postgres", demo_name(), years_name()):
                        drop(server, name)
        cluster.stop()


@contextmanager
def asking(cluster: Cluster) -> Iterator[Connection]:
    """A connection on which databases are made and dropped."""
    server = connect(cluster.url("postgres"))
    with server.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        yield connection
    server.dispose()


def names(server: Connection) -> list[str]:
    """The databases of the server, but for PostgreSQL's own templates."""
    found = server.scalars(text("SELECT datname FROM pg_database WHERE NOT datistemplate"))
    return [str(name) for name in found.all()]


def drop(server: Connection, name: str) -> None:
    """Drop a database, whoever is connected to it."""
    server.execute(text(f'DROP DATABASE IF EXISTS "{name}" WITH (FORCE)'))


def drop_mine(cluster: Cluster, beginning: str) -> None:
    """Drop this worker's databases whose own name begins so, with what was made beside them."""
    with asking(cluster) as server:
        for name in names(server):
            if name.startswith(f"{MINE}_{beginning}"):
                drop(server, name)


def copy(server: Connection, template: str, name: str) -> None:
    """Make a database from a template that nobody is connected to."""
    drop(server, name)
    server.execute(text(f'CREATE DATABASE "{name}" TEMPLATE "{template}"'))


class Restored:
    """A copy of a template that is put back after each test, by the rows that were touched.

    The rows as they were stand in a schema of their own beside the tables. A row that a test wrote
    is younger than the mark; a table that lost rows has fewer. Ids go on from where they were.
    ``engine`` is for tests; its connections stay open from one to the next.
    """

    def __init__(self, cluster: Cluster, template: str, name: str) -> None:
        """Copy the template and keep its rows."""
        with asking(cluster) as server:
            copy(server, template, name)
        self.url = cluster.url(name)
        self.engine = connect(self.url)
        self._engine = create_engine(self.url, poolclass=NullPool)
        with self._engine.begin() as kept:
            kept.execute(text("CREATE SCHEMA pristine"))
            self._tables = {table: _columns(kept, table) for table in _tables(kept)}
            self._counts = {table: _count(kept, table) for table in self._tables}
            for table in self._tables:
                kept.execute(text(f'CREATE TABLE pristine."{table}" AS TABLE public."{table}"'))
        self._mark_now()

    def put_back(self, leave: Collection[str] = ()) -> None:
        """Make every table what it was, but those to ``leave``.

        Raises ``SQLAlchemyError`` where somebody holds one.
        """
        with self._engine.begin() as kept:
            kept.execute(text("SET LOCAL lock_timeout = '3s'"))
            kept.execute(text("SET LOCAL session_replication_role = replica"))
            for table in self._touched(kept):
                if table in leave:
                    continue
                columns, key = self._tables[table]
                young = f"age(xmin) <= age('{self._mark}'::xid)"
                kept.execute(text(f'DELETE FROM public."{table}" WHERE {young}'))
                alike = " AND ".join(f'here."{name}" = was."{name}"' for name in key)
                names = ", ".join(f'"{name}"' for name in columns)
                kept.execute(
                    text(
                        f'INSERT INTO public."{table}" ({names}) OVERRIDING SYSTEM VALUE '
                        f'SELECT {names} FROM pristine."{table}" was WHERE NOT EXISTS '
                        f'(SELECT 1 FROM public."{table}" here WHERE {alike})'
                    )
                )
        self._mark_now()

    def break_lines(self) -> None:
        """End every connection to it: a server whose line breaks forgets what it has in memory."""
        ending = text(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
            "WHERE datname = current_database() AND pid <> pg_backend_pid()"
        )
        with self._engine.begin() as kept:
            kept.execute(ending)

    def _mark_now(self) -> None:
        with self._engine.begin() as kept:
            self._mark = str(kept.scalar(text("SELECT pg_current_xact_id()::xid::text")))

    def _touched(self, kept: Connection) -> list[str]:
        """The tables with a row of this test's, or without one they had."""
        asked = " UNION ALL ".join(
            f"SELECT '{table}', count(*), count(*) FILTER "
            f"(WHERE age(xmin) <= age('{self._mark}'::xid)) FROM public.\"{table}\""
            for table in self._tables
        )
        rows = kept.execute(text(asked)).all()
        return [name for name, count, young in rows if young or count != self._counts[name]]


def _tables(kept: Connection) -> list[str]:
    found = kept.scalars(text("SELECT tablename FROM pg_tables WHERE schemaname = 'public'"))
    return sorted(found.all())


def _columns(kept: Connection, table: str) -> tuple[list[str], list[str]]:
    """The columns that are written, and those of the primary key."""
    there = inspect(kept)
    written = [c["name"] for c in there.get_columns(table) if not c.get("computed")]
    key = there.get_pk_constraint(table)["constrained_columns"]
    return written, key or written


def _count(kept: Connection, table: str) -> int:
    return int(kept.scalar(text(f'SELECT count(*) FROM public."{table}"')) or 0)


def demo_name() -> str:
    """The template with the demo workshop in it."""
    return f"demo_{_content()}"


def years_name() -> str:
    """The template with the demo's two years of history in it as well."""
    return f"years_{_content()}"


def demo_template(cluster: Cluster) -> str:
    """The demo's template, filled first where this source never filled one."""

    def fill(engine: Engine) -> None:
        migrate(engine)
        with sessions(engine).begin() as session:
            load(session)

    return _template(cluster, demo_name(), None, fill)


def years_template(cluster: Cluster) -> str:
    """The template of the years, filled first where this source never filled one."""

    def fill(engine: Engine) -> None:
        with sessions(engine).begin() as session:
            load_years(session)

    return _template(cluster, years_name(), demo_template(cluster), fill)


def _template(
    cluster: Cluster, name: str, origin: str | None, fill: Callable[[Engine], None]
) -> str:
    """A template by its name; it gets that name only once it is filled."""
    if name in _there:
        return name
    _there.add(name)
    with alone_at(f"test-{name.partition('_')[0]}"), asking(cluster) as server:
        if name in names(server):
            return name
        filling = f"{MINE}_filling_{name}"
        if origin is None:
            drop(server, filling)
            ensure_database(cluster.url(filling))
        else:
            copy(server, origin, filling)
        engine = connect(cluster.url(filling))
        fill(engine)
        engine.dispose()
        server.execute(text(f'ALTER DATABASE "{filling}" RENAME TO "{name}"'))
    return name


def _content() -> str:
    """A hash of all files a template is filled by."""
    if not _hashed:
        found = hashlib.sha256()
        for folder in FILLED_BY:
            for path in sorted((ROOT / "src/eldrim" / folder).rglob("*")):
                if path.is_file() and "__pycache__" not in path.parts:
                    found.update(str(path.relative_to(ROOT)).encode())
                    found.update(path.read_bytes())
        found.update(Path(__file__).read_bytes())
        _hashed.append(found.hexdigest()[:12])
    return _hashed[0]


_hashed: list[str] = []
# The templates this process has seen.
_there: set[str] = set()
