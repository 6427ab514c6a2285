"""What each kind of entry does to the state of a run: data that the server and the tablet fold by.

The state is a set of maps. An effect names one of them and says by what it is keyed.
"""

from enum import StrEnum
from typing import NamedTuple

from eldrim.core.run.entries import EntryKind


class EffectKind(StrEnum):
    """What an effect does to a map."""

    PUT = "put"  # the entry stands under the key
    DROP = "drop"  # nothing stands under the key any more
    APPEND = "append"  # the entry stands behind what is under the key
    DROP_SAME = "drop_same"  # nothing stands any more that is the entry of this id
    CLASH = "clash"  # values written without knowing of each other stand together


class KeyedBy(StrEnum):
    """What an effect takes its key from."""

    STEP = "step"
    PLACE = "place"  # step and reading
    ID = "id"
    REFERS_TO = "refers_to"
    CLOSING = "closing"  # the id of the entry that closed the step
    REPLACED = "replaced"  # the id of the value that stood at the place, but for an ``over``
    CARRIED = "carried"  # each step that the entry closes beside its own
    RESET = "reset"  # each step that has to be done anew
    RESET_PLACE = "reset_place"  # each place of those with a value
    RUN = "run"  # one for the whole run


class Effect(NamedTuple):
    """One change of one map of the state."""

    kind: EffectKind
    map: str
    key: KeyedBy


_PUT, _DROP, _APPEND, _DROP_SAME, _CLASH = EffectKind
K, B, E = EntryKind, KeyedBy, Effect
_VALUE = (
    E(_DROP, "deviations", B.REPLACED),
    E(_CLASH, "conflicts", B.PLACE),
    E(_PUT, "values", B.PLACE),
)
_CLOSE = E(_PUT, "closings", B.STEP)
_MARK = E(_PUT, "marks", B.ID)
_DEVIATE = E(_PUT, "deviations", B.ID)

EFFECTS: dict[EntryKind, tuple[Effect, ...]] = {
    K.READING: _VALUE,
    K.DEVIATION: (*_VALUE, _DEVIATE),
    K.WATCH: (
        E(_APPEND, "watched", B.PLACE),
        E(_DROP, "values", B.PLACE),
        E(_DROP, "conflicts", B.PLACE),
    ),
    K.DONE: (
        _CLOSE,
        E(_DROP, "closings", B.RESET),
        E(_DROP, "released", B.RESET),
        E(_DROP, "values", B.RESET_PLACE),
    ),
    K.SKIP: (_CLOSE, E(_PUT, "closings", B.CARRIED), _DEVIATE),
    K.HEARD: (E(_APPEND, "heard", B.PLACE),),
    K.OVER: (*_VALUE, _DEVIATE),
    K.ACCEPT: (E(_DROP, "deviations", B.REFERS_TO), E(_PUT, "accepted", B.REFERS_TO)),
    K.REFUSE: (E(_PUT, "refused", B.REFERS_TO),),
    K.AGAIN: (
        E(_DROP, "deviations", B.REFERS_TO),
        E(_PUT, "refused", B.REFERS_TO),
        E(_DROP_SAME, "values", B.REFERS_TO),
        E(_DROP_SAME, "closings", B.REFERS_TO),
        E(_DROP_SAME, "closings", B.CLOSING),
    ),
    K.RELEASE: (E(_PUT, "released", B.STEP),),
    K.DIFFERS: (_MARK,),
    K.STOP: (_MARK, E(_PUT, "stops", B.ID)),
    K.RESUME: (E(_DROP, "stops", B.REFERS_TO),),
    K.VERDICT: (E(_PUT, "verdicts", B.PLACE),),
    K.REOPEN: (E(_DROP, "deviations", B.CLOSING), E(_DROP_SAME, "closings", B.CLOSING)),
    K.SIGN: (_CLOSE, E(_PUT, "endings", B.RUN)),
    K.END: (E(_PUT, "endings", B.RUN),),
    K.NOTE: (E(_PUT, "notes", B.ID),),
}
