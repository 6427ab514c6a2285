"""The schema an empty database gets, and the databases that versions before this one left behind.

``kept/schema-*.sql.gz`` are whole databases of the demo as a version wrote them. A new version adds
its own and removes none.
"""

import gzip
from collections.abc import Iterator
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Engine, func, inspect, select, text

from eldrim.store.cluster import Cluster
from eldrim.store.database import (
    SchemaError,
    answers,
    connect,
    ensure_database,
    migrate,
    newest_schema,
    schema,
    sessions,
)
from eldrim.store.tables import Base, EditionRow, EntryRow, UserRow
from tests import databases
from tests.web.client import TestClient, asking
from tests.web.test_web import sign_in

KEPT = sorted((Path(__file__).parent / "kept").glob("schema-*.sql.gz"))
PAGES = ("/engines", "/procedures", "/bay", "/floor", "/open", "/log", "/units", "/due", "/lessons")


@pytest.fixture
def empty(cluster: Cluster) -> Iterator[Engine]:
    """A database with nothing in it."""
    name = f"{databases.MINE}_empty"
    ensure_database(cluster.url(name))
    engine = connect(cluster.url(name))
    yield engine
    engine.dispose()
    with databases.asking(cluster) as server:
        databases.drop(server, name)


def test_an_empty_database_gets_the_tables_the_code_expects(empty: Engine) -> None:
    """And a second time nothing more."""
    for _ in range(2):
        migrate(empty)
        with empty.connect() as connection:
            found = compare_metadata(MigrationContext.configure(connection), Base.metadata)
            assert schema(connection) == newest_schema()
        assert found == []
    assert answers(empty)


@pytest.mark.parametrize("dump", KEPT, ids=lambda path: path.name)
def test_a_database_of_before_comes_up_with_all_that_was_in_it(empty: Engine, dump: Path) -> None:
    """Every row is there; people sign in, every page opens, an edition prints."""
    rows = gzip.decompress(dump.read_bytes()).decode()
    with empty.begin() as connection:
        connection.connection.cursor().execute(rows)  # type: ignore[arg-type]
    with sessions(empty)() as session:
        before = {
            table.name: session.scalar(select(func.count()).select_from(table))
            for table in Base.metadata.sorted_tables
            if inspect(empty).has_table(table.name)
        }
    migrate(empty)
    with sessions(empty)() as session:
        for name, count in before.items():
            table = Base.metadata.tables[name]
            assert session.scalar(select(func.count()).select_from(table)) == count, name
        assert session.scalars(select(EntryRow.id)).first() is not None
        assert session.get(UserRow, "trainer") is not None
        edition = session.scalars(select(EditionRow.id)).first()
    with asking(empty) as client:
        sign_in(client, "lead")
        assert {page: client.get(page).status_code for page in PAGES} == dict.fromkeys(PAGES, 200)
        assert_opens(client, f"/editions/{edition}")


def assert_opens(client: TestClient, address: str) -> None:
    """The page of an edition, and its paper."""
    assert client.get(address).status_code == 200
    paper = client.get(f"{address}/job-sheet.pdf")
    assert paper.content.startswith(b"%PDF")


def test_a_database_of_before_the_baseline_is_told_the_way(empty: Engine) -> None:
    """By the version that brings it up; nothing is changed."""
    migrate(empty)
    with empty.begin() as writing:
        writing.execute(text("UPDATE alembic_version SET version_num = '0012'"))
    with pytest.raises(SchemaError, match=r"before version 0\.2\. Start version 0\.2 with it once"):
        migrate(empty)
    with empty.connect() as connection:
        assert schema(connection) == "0012"
