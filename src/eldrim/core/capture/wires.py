"""Pieces of the ignition and its timing, each in one line, as they are typed on the board.

Pieces: ``cap #C-8 is fan-shroud: 2 clips; rotor #R-8 (turn it gently)``, joints apart by ``+``; a
cap that hinders something is a part.
Timing: ``pulley 180 mm; marks 0, 8; runs right, seen from pulley; vacuum plugged; curve 1000: 9 to
12, 2400: 23 to 27; source wm p. 33``.
"""

import re
from collections.abc import Iterator
from typing import Any, get_args

from eldrim.core.base.errors import EngineError, Problem, QuantityError
from eldrim.core.base.quantity import Dimension, format_number, parse
from eldrim.core.capture.held import printed_torque, torque_figure
from eldrim.core.capture.plain_facts import clauses
from eldrim.core.capture.shorthand import apart, numbered, shorthand, understand
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.model import Engine
from eldrim.core.engine.parts import Joint
from eldrim.core.engine.timing import CurvePoint, Piece, PieceKey, Timing
from eldrim.core.words.messages import gettext

PIECES: tuple[PieceKey, ...] = get_args(PieceKey)
PIECE_FIX = "write it as cap #C-8: 2 clips; rotor #R-8; distributor: hex nut 13 mm 12 N·m"
TIMING_FIX = (
    "write it as pulley 180 mm; marks 0, 8; runs right, seen from pulley; vacuum plugged; "
    "curve 1000: 9 to 12, 2400: 23 to 27; source wm p. 33"
)
_PIECE = re.compile(
    r"(?P<key>[a-z-]+)\s*(?:#(?:\"(?P<quoted>[^\"]+)\"|(?P<number>[^\s:;]+)))?\s*(?:is\s+(?P<part>[a-z0-9-]+))?\s*"
    r"(?:\((?P<note>[^)]*)\))?\s*(?::\s*(?P<held>.+))?"
)
_POINT = re.compile(r"(\d{2,5})\s*:\s*(-?\d+(?:\.\d+)?)(?:\s*(?:to|-|–)\s*(-?\d+(?:\.\d+)?))?")
_SOURCE = re.compile(r"(?P<source>[a-z0-9-]+)\s+(?:p\.?|page)\s*(?P<page>\S.*)", re.IGNORECASE)
_RUNS = re.compile(r"(left|right)(?:,?\s+seen from\s+(?:the\s+)?(pulley|flywheel))?", re.IGNORECASE)


def pieces_line(engine: Engine) -> str:
    """What the sheet says of its pieces, as it is typed."""
    return "; ".join(_piece_words(engine, key, piece) for key, piece in engine.pieces.items())


def _piece_words(engine: Engine, key: str, piece: Piece) -> str:
    number = f" {numbered(piece.part_number)}" if piece.part_number else ""
    number += f" is {piece.part}" if piece.part else ""
    number += f" ({piece.note})" if piece.note else ""
    held = [shorthand(joint, printed_torque(engine, joint)) for joint in piece.joints.values()]
    return f"{key}{number}{': ' if held else ''}{' + '.join(held)}"


def read_pieces(engine: Engine, line: str) -> Engine:
    """The sheet with its pieces as such a line says them.

    A torque that is new becomes a figure to be sourced. Raises :class:`EngineError` with every
    clause that is not understood.
    """
    problems, found = list[Problem](), dict[PieceKey, Piece]()
    for clause in clauses("pieces", line):
        fits = _PIECE.fullmatch(clause)
        key = next((one for one in PIECES if fits and one == fits["key"].lower()), None)
        if fits is None or key is None or key in found:
            said = gettext("stands twice") if key in found else gettext("is not understood")
            problems.append(
                Problem(
                    "pieces", gettext("'{clause}' {said}", clause=clause[:80], said=said), PIECE_FIX
                )
            )
            continue
        had = engine.pieces.get(key, Piece())
        try:
            engine, joints = _held(engine, key, had, fits["held"] or "")
        except EngineError as error:
            problems += error.problems
            continue
        told = {
            "part_number": fits["quoted"] or fits["number"],
            "joints": joints,
            "part": fits["part"],
        }
        found[key] = had.model_copy(update={**told, "note": fits["note"] or ""})
    if problems:
        raise EngineError(problems)
    return engine.model_copy(update={"pieces": found})


def _held(engine: Engine, key: PieceKey, had: Piece, said: str) -> tuple[Engine, dict[str, Joint]]:
    """What holds a piece; a joint said as it stood keeps its key and its figure."""
    before = {shorthand(joint, printed_torque(engine, joint)): k for k, joint in had.joints.items()}
    joints: dict[str, Joint] = {}
    for text in apart(said, "+"):
        if text in before:
            joints[before[text]] = had.joints[before[text]]
            continue
        told = understand(text)
        joint = told.joint
        if told.torque is not None:
            engine, figure = torque_figure(engine, key, told.torque)
            joint = joint.model_copy(update={"torque": figure})
        name = free_key(joint.name or joint.kind.value.replace("_", "-"), tuple(joints))
        joints[name] = joint
    return engine, joints


def timing_line(engine: Engine) -> str:
    """What the sheet says of its timing, as it is typed."""
    return "; ".join(_timing_words(engine.timing)) if engine.timing else ""


def _timing_words(timing: Timing) -> Iterator[str]:
    if timing.pulley:
        yield f"pulley {timing.pulley.text}"
    yield f"marks {', '.join(format_number(mark, 2).replace('−', '-') for mark in timing.marks)}"
    yield f"runs {timing.turns}, seen from {timing.seen_from}"
    if timing.vacuum != "none":
        yield f"vacuum {timing.vacuum}"
    if timing.read_at:
        yield f"read {timing.read_at}"
    if timing.curve:
        yield f"curve {', '.join(map(_point_words, timing.curve))}"
    yield f"source {timing.source} p. {timing.page}"


def _point_words(point: CurvePoint) -> str:
    ends = (point.advance.low, point.advance.high)
    low, high = (format_number(end, 2).replace("−", "-") for end in ends)
    span = low if low == high else f"{low} to {high}"
    return f"{point.speed.mid:.0f}: {span}"


def read_timing(line: str) -> dict[str, Any] | None:
    """The ``timing`` of a sheet from such a line; None where nothing is said.

    Raises :class:`EngineError` with every clause that is not understood.
    """
    if not line.strip():
        return None
    found: dict[str, Any] = {}
    problems = []
    for clause in clauses("timing", line):
        word, _, rest = clause.partition(" ")
        read = _READ.get(word.lower(), lambda _: {})(rest.strip())
        if not read:
            problems.append(
                Problem(
                    "timing",
                    gettext("'{clause}' is not understood", clause=clause[:80]),
                    TIMING_FIX,
                )
            )
        found |= read
    if "source" not in found and not problems:
        problems.append(Problem("timing", gettext("does not say its source"), TIMING_FIX))
    if problems:
        raise EngineError(problems)
    return found


def _pulley(said: str) -> dict[str, Any]:
    try:
        parse(said, Dimension.LENGTH)
    except QuantityError:
        return {}
    return {"pulley": said}


def _marks(said: str) -> dict[str, Any]:
    words = [one.strip().rstrip("°").replace("−", "-") for one in said.split(",")]
    fits = all(re.fullmatch(r"-?\d{1,2}(?:\.\d+)?", one) for one in words)
    return {"marks": [float(one) for one in words]} if fits else {}


def _runs(said: str) -> dict[str, Any]:
    fits = _RUNS.fullmatch(said)
    if fits is None:
        return {}
    return {"turns": fits[1].lower(), "seen_from": (fits[2] or "pulley").lower()}


def _vacuum(said: str) -> dict[str, Any]:
    return {"vacuum": said.lower()} if said.lower() in ("plugged", "connected", "none") else {}


def _curve(said: str) -> dict[str, Any]:
    points = [_POINT.fullmatch(one.strip()) for one in said.split(",")]
    read = [fits for fits in points if fits]
    if len(read) < len(points):
        return {}
    return {
        "curve": [
            {
                "speed": f"{fits[1]} rev/min",
                "advance": f"{fits[2]} to {fits[3]}°" if fits[3] else f"{fits[2]}°",
            }
            for fits in read
        ]
    }


def _source(said: str) -> dict[str, Any]:
    fits = _SOURCE.fullmatch(said)
    return {"source": fits["source"].lower(), "page": fits["page"]} if fits else {}


_READ = {
    "pulley": _pulley,
    "marks": _marks,
    "runs": _runs,
    "vacuum": _vacuum,
    "read": lambda said: {"read_at": said},
    "curve": _curve,
    "source": _source,
}
