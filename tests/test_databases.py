"""A database that is put back after a test holds what it held: no row more, fewer or otherwise."""

from collections.abc import Iterator

import pytest
from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError

from eldrim.store.cluster import Cluster
from eldrim.store.database import connect
from eldrim.store.digests import digests
from tests.databases import MINE, Restored, asking, demo_template, drop


@pytest.fixture
def standing_one(cluster: Cluster) -> Iterator[Restored]:
    """A database of this test's own that is put back."""
    name = f"{MINE}_put_back"
    yield Restored(cluster, demo_template(cluster), name)
    with asking(cluster) as server:
        drop(server, name)


CHANGES = {
    "a row more": "INSERT INTO bays (name) VALUES ('Bay 99')",
    "a row fewer": "DELETE FROM complaints",
    "a row otherwise": "UPDATE users SET display = 'Nobody'",
    "one that others lean on": "UPDATE units SET name = upper(name)",
}


def held(engine: Engine) -> dict[str, object]:
    """What each table holds."""
    with engine.connect() as asked:
        return dict(digests(asked))


@pytest.mark.parametrize("change", CHANGES.values(), ids=CHANGES)
def test_what_a_test_changed_is_put_back(standing_one: Restored, change: str) -> None:
    """Twice over: the mark moves on."""
    engine = connect(standing_one.url)
    before = held(engine)
    for _ in range(2):
        with engine.begin() as writing:
            writing.execute(text(change))
        assert held(engine) != before
        standing_one.put_back()
        assert held(engine) == before
    engine.dispose()


def test_a_table_that_somebody_holds_is_told(standing_one: Restored) -> None:
    """Then the next test has a new copy."""
    engine = connect(standing_one.url)
    with engine.begin() as holding:
        holding.execute(text("UPDATE users SET display = 'Held'"))
        holding.execute(text("LOCK TABLE users IN ACCESS EXCLUSIVE MODE"))
        with pytest.raises(DBAPIError):
            standing_one.put_back()
    engine.dispose()
