"""The made-up workshop is plausible: figures in their bands, units with their engines."""

import pytest
from sqlalchemy import Engine, func, select
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.engine import Engine as Sheet
from eldrim.core.engine.joints import FASTENERS
from eldrim.core.engine.parts import PartKind
from eldrim.core.figures.sheet import look_up
from eldrim.demo.load import UNITS, demo_engines, load
from eldrim.store.tables import EntryRow, UnitRow
from eldrim.web.app import make_app
from tests.web.client import TestClient
from tests.web.test_web import sign_in

ENGINES = {e.id: e for e in demo_engines()}
# Handbook §9, N·m: thread and seat, then iron and aluminium heads.
BANDS = {
    ("M14", "gasket"): {"iron": (25, 35), "aluminium": (25, 30)},
    ("M14", "conical"): {"iron": (15, 30), "aluminium": (10, 20)},
    ("M12", "gasket"): {"iron": (15, 25), "aluminium": (15, 20)},
    ("M10", "gasket"): {"iron": (10, 15), "aluminium": (10, 13)},
}


@pytest.mark.parametrize("key", sorted(ENGINES))
def test_plug_torque_and_gap_lie_in_their_bands(key: str) -> None:
    """A slip in the demo would teach a slip."""
    sheet = ENGINES[key]
    plug = sheet.plugs[0]
    low, high = BANDS[(plug.thread.split("×")[0], plug.seat)][sheet.layout.head]
    for variant in sheet.variants:
        torque, gap = (look_up(sheet, k, variant) for k in ("plug-torque", "plug-gap"))
        assert torque is not None
        assert gap is not None
        assert low * 0.9 <= torque.value.low <= torque.value.high <= high * 1.1
        assert 0.4 <= gap.value.low <= gap.value.high <= 1.6
        assert abs(plug.gap_supplied.mid - gap.value.mid) < 0.15


@pytest.mark.parametrize("key", sorted(ENGINES))
def test_every_bolt_and_nut_has_a_figure_with_a_source(key: str) -> None:
    """Screws in plastic and capped cover bolts are snug; the rest is torqued."""
    sheet = ENGINES[key]
    for part in sheet.parts.values():
        for joint in part.joints.values():
            if joint.kind in FASTENERS and part.kind is not PartKind.COVER:
                assert joint.torque in sheet.figures


def shapes(sheet: Sheet) -> tuple[str, str, str]:
    """What makes an engine different from another."""
    return sheet.layout.shape.value, sheet.ignition.kind, sheet.layout.service.value


def test_the_engines_differ_and_use_every_mechanism() -> None:
    """Ways of every kind, work-rounds by feel and in pieces, all ignitions, all services used."""
    assert len({(shapes(e), len(e.cylinders)) for e in ENGINES.values()}) == len(ENGINES) == 9
    ways = {w.kind for e in ENGINES.values() for p in e.parts.values() for w in p.ways.values()}
    assert {w.value for w in ways} == {"remove", "swing_aside", "unclip", "loosen_and_shift"}
    rounds = {
        r.kind.value for e in ENGINES.values() for h in e.hindrances for r in h.rounds.values()
    }
    assert {"by_feel", "in_pieces", "wobble", "short_socket"} <= rounds
    kinds = {h.kind.value for e in ENGINES.values() for h in e.hindrances}
    assert {"hides", "blocks_tool", "blocks_exit", "holds_short", "carries_fastener"} <= kinds


def test_every_unit_has_an_engine_and_a_variant_of_it() -> None:
    """No unit without a sheet."""
    for _, name, engine, variant, _, _ in UNITS:
        assert variant in ENGINES[engine].variants, name
    assert {u[2] for u in UNITS} == set(ENGINES)


def test_loading_twice_changes_nothing(database: Engine) -> None:
    """A second start never destroys or doubles data."""
    made: sessionmaker[Session] = sessionmaker(database)
    with made() as session:
        before = session.scalar(select(func.count()).select_from(EntryRow))
    with made.begin() as session:
        assert not load(session)
    with made() as session:
        assert session.scalar(select(func.count()).select_from(EntryRow)) == before
        assert session.scalar(select(func.count()).select_from(UnitRow)) == len(UNITS)


@pytest.mark.sweep(4)
@pytest.mark.parametrize("key", sorted(ENGINES))
def test_every_engine_s_plan_page_draws_all_and_answers(database: Engine, key: str) -> None:
    """Plan, moves, ribbon and scrubber for all its holes at once, without an error."""
    with TestClient(make_app(database)) as client:
        sign_in(client, "trainer")
        sheet = ENGINES[key]
        asked = "&".join(f"c={n}" for n in sheet.cylinders)
        page = client.get(f"/engines/{key}?{asked}").text
        assert page.count('class="hole chosen"') == len(sheet.holes)
        assert "proven" in page
        assert 'class="ribbon"' in page
        assert 'width="-' not in page
        assert "take apart" in page.lower()
