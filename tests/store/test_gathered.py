"""Signed runs gathered: once, in order, by whoever comes first; a fault stops no signature."""

from unittest.mock import patch

import pytest
from sqlalchemy import func, select, update
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.lessons.digest import RunDigest
from eldrim.core.run.history import Past
from eldrim.store import gathered, lives
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


def faked(session: Session, made: dict[float, RunDigest]) -> None:
    """Gather the belt loader's runs anew, each leaving what is said for its meter."""
    gathered.forget(session)
    nothing = RunDigest(planned=1, took=1, steps=())

    def digest(past: Past, pace: object) -> RunDigest:
        return made.get(past.meter or 0.0, nothing)

    with patch.object(gathered, "digest", digest):
        gathered.settle(session, 100)


def row(**about: object) -> RunDigest:
    """What a run leaves, of these alone."""
    return RunDigest.model_validate({"planned": 1, "took": 1, "steps": (), **about})


def test_a_failure_ends_a_life_though_it_is_renewed_later(store: Store) -> None:
    """It ran until it was found failed: not until its renewal, and not for an unknown time."""
    coil = {"thing": "coil", "hole": "1", "number": "C"}
    with store.begin() as session:
        failed = row(failed=({"thing": "coil", "hole": "1", "why": "coil-cracked"},))
        faked(session, {1410.0: row(new=(coil,)), 1437.0: failed})
        [open_] = lives.of_number(session, "coil", "C")
        assert (open_.failed, open_.ran, open_.out) == (True, 27.0, None)
        faked(session, {1410.0: row(new=(coil,)), 1437.0: failed, 1466.0: row(new=(coil,))})
        ended = [one for one in lives.of_number(session, "coil", "C") if one.out]
        assert [(one.failed, one.ran) for one in ended] == [(True, 27.0)]


def test_wear_is_by_what_ran_until_the_gap_was_read(store: Store) -> None:
    """Not by what it ran since, read or not."""
    new = row(
        new=({"thing": "plug", "hole": "1", "number": "P"},), gaps=({"hole": "1", "left": 0.75},)
    )
    read = row(gaps=({"hole": "1", "found": 0.804},))
    with store.begin() as session:
        faked(session, {1410.0: new, 1437.0: read})
        [life] = lives.of_number(session, "plug", "P")
        assert life.ran == 56.0
        assert life.rate == pytest.approx(1_000 * 0.054 / 27)


def test_a_recall_asks_for_a_number(store: Store) -> None:
    """What has none is no one part: no list goes over things of every kind."""
    with store.begin() as session:
        faked(
            session,
            {1410.0: row(new=({"thing": "plug", "hole": "1"}, {"thing": "coil", "hole": "2"}))},
        )
        assert [one.hole for one in lives.in_place(session, "coil", "", ("", 0), 9)] == ["2"]
