"""Which pieces of the ignition a job lets go."""

from eldrim.core.access.chosen_ways import ChosenWays
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import Joint, WayKind
from eldrim.core.engine.timing import Piece, PieceKey
from eldrim.core.engine.upkeep import Companion
from eldrim.core.job import Job, Work, timed


def cap_as_part(engine: Engine, ways: ChosenWays) -> str | None:
    """The part that is the cap and was taken off; None where it is no part, or stayed."""
    piece = engine.pieces.get("cap")
    moved = ways.move_of.get(piece.part) if piece and piece.part else None
    return moved.part if moved and ways.way(moved).kind is WayKind.REMOVE else None


def leads_apart(job: Job) -> bool:
    """Whether every lead comes off its tower: the cap or the pack is exchanged."""
    return bool({Work.CAP, Work.PACK} & job.places)


def pieces_of(job: Job, engine: Engine) -> tuple[PieceKey, ...]:
    """The pieces a job lets go, in the order they are told."""
    asked: dict[PieceKey, bool] = {
        "cap": job.cap_off,
        "rotor": bool({Work.ROTOR, Work.POINTS} & job.places),
        "points": Work.POINTS in job.places,
        "pack": Work.PACK in job.places,
        "coil-lead": Work.COIL_LEAD in job.places,
        "distributor": timed(job, engine),
    }
    return tuple(key for key, touched in asked.items() if touched)


def piece_joints(job: Job, engine: Engine) -> list[Joint]:
    """All that is let go of these pieces, and of what is done along with them."""
    owners: list[Piece | Companion] = [
        engine.pieces[key] for key in pieces_of(job, engine) if key in engine.pieces
    ]
    owners += [engine.companions[key] for key in job.companions]
    return [joint for owner in owners for joint in owner.joints.values()]
