"""The cards of an edition as one page part, which a tablet keeps for every run of it."""

from dataclasses import dataclass
from functools import partial
from hashlib import sha256
from threading import Lock

from cachetools import LRUCache, cached

from eldrim.core.engine import Engine
from eldrim.core.run.entries import EntryKind
from eldrim.core.run.readings import METERS, picked
from eldrim.core.run.state import RunState
from eldrim.core.run.stops import STOPS, deviation_reasons, reasons
from eldrim.core.run.told import told
from eldrim.core.words.language import reading_in
from eldrim.drawing import plug_condition
from eldrim.store.edition_store import plan_of
from eldrim.store.tables import EditionRow
from eldrim.web.bay.cards import cards
from eldrim.web.context import templates


@dataclass(frozen=True)
class KeptCards:
    """What is served, and where: the address changes with it."""

    address: str
    body: bytes


@cached(LRUCache(32), key=lambda row, engine, adapter: (row.id, adapter), lock=Lock())
def kept_cards(row: EditionRow, engine: Engine, adapter: bool) -> KeptCards:
    """The cards of an edition, laid out once; ``adapter``: whether codes can be read by a device.

    Nothing of a run or of who follows it is in them.
    """
    _, shown = cards(row, engine)
    with reading_in(plan_of(row).job.language):
        made = templates.get_template("bay/cards.html.jinja").render(
            kept=True,
            plan=plan_of(row),
            cards=shown,
            stops=STOPS,
            adapter=adapter,
            **words_of_cards(),
            **NO_RUN,
        )
    body = made.encode()
    return KeptCards(f"/bay/cards/{row.id}/{sha256(body).hexdigest()[:16]}", body)


# What a card in the page of a run shows of the run and of who looks at it.
NO_RUN: dict[str, object] = {"values": {}, "last": {}, "leads": ()}


def words_of_cards(state: RunState | None = None) -> dict[str, object]:
    """What a card is laid out with besides its step; ``state`` of the run, where it is of one."""
    return {
        "told": partial(told, others=state.value_of if state else lambda key: None),
        "meters": METERS,
        "cannot": reasons(EntryKind.SKIP),
        "differs": reasons(EntryKind.DIFFERS),
        "deviation_reasons": deviation_reasons,
        "look": plug_condition.draw,
        "picked": picked,
    }
