"""Signed runs gathered: once, in order, by whoever comes first; a fault stops no signature."""

from unittest.mock import patch

import pytest
from sqlalchemy import func, select, update
from sqlalchemy.orm import Session, sessionmaker

from eldrim.store import gathered
from eldrim.store.lesson_tables import DigestRow, FittedPartRow, PartKindRow
from eldrim.store.tables import RunRow

Store = sessionmaker[Session]


def counted(session: Session) -> tuple[int, int, int]:
    """Digests, lives, and things fitted by the counts of kinds."""
    asked = (
        select(func.count()).select_from(DigestRow),
        select(func.count()).select_from(FittedPartRow),
        select(func.coalesce(func.sum(PartKindRow.fitted), 0)),
    )
    digests, lives, fitted = (int(session.scalar(one) or 0) for one in asked)
    return digests, lives, fitted


def test_gathered_again_it_comes_out_the_same(store: Store) -> None:
    """All that follows from the runs follows from them alone."""
    with store.begin() as session:
        before = counted(session)
        gathered.forget(session)
        assert counted(session) == (0, 0, 0)
        gathered.settle(session, 100)
        assert counted(session) == before
        assert before[1] == before[2] > 6


def test_two_who_gather_at_once_do_each_run_once(store: Store) -> None:
    """While one does, the other leaves it; then it goes on where the first ended."""
    with store.begin() as session:
        before = counted(session)
        gathered.forget(session)
    with store.begin() as first, store.begin() as second:
        gathered.settle(first, 2)
        gathered.settle(second, 2)
        assert (counted(first)[0], counted(second)[0]) == (2, 0)
        first.commit()
        gathered.settle(second, 100)
    with store.begin() as session:
        assert counted(session)[0] == before[0]
        assert session.scalar(select(func.count()).where(~RunRow.gathered)) == 0


def test_a_run_that_cannot_be_gathered_is_passed_over(store: Store) -> None:
    """The others are gathered, nothing half of it is kept, and it is not tried for ever."""
    with store.begin() as session:
        gathered.forget(session)
        broken = session.scalars(select(RunRow.id).order_by(RunRow.signed_at)).first()
        real = gathered.digest

        def digest(past: object, pace: object) -> object:
            if getattr(past, "run", None) == broken:
                raise ZeroDivisionError
            return real(past, pace)  # type: ignore[arg-type]

        with patch.object(gathered, "digest", digest):
            gathered.settle(session, 100)
        runs = session.scalar(select(func.count()).where(RunRow.signed_at.is_not(None)))
        assert counted(session)[0] == (runs or 0) - 1
        assert session.get(DigestRow, broken) is None
        assert session.scalar(select(func.count()).where(~RunRow.gathered)) == 0


@pytest.mark.parametrize("kept", [0, 1])
def test_what_is_gathered_already_is_left_alone(store: Store, kept: int) -> None:
    """Once more changes nothing, whatever waits."""
    with store.begin() as session:
        before = counted(session)
        newest = select(RunRow.id).order_by(RunRow.signed_at.desc()).limit(kept)
        session.execute(update(RunRow).where(RunRow.id.in_(newest)).values(parts=["kept"]))
        gathered.settle(session, 100)
        assert counted(session) == before
        named = session.scalar(select(func.count()).where(RunRow.parts == ["kept"]))
        assert named == kept
