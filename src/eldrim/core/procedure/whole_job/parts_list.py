"""The parts of a plan: what to have on the bench, with quantities and why."""

from eldrim.core.engine.joints import JointKind
from eldrim.core.engine.model import Coil
from eldrim.core.engine.timing import PieceKey
from eldrim.core.job import Work
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.job.joint_words import bare_name
from eldrim.core.procedure.model import PartLine
from eldrim.core.words import inside, say


def parts_list(facts: JobFacts) -> tuple[PartLine, ...]:
    """Plugs, coils, boots, seals, one-time fasteners and compounds, with quantities of the job."""
    return (*_service_parts(facts), *_one_time(facts), *_compounds(facts))


def _service_parts(facts: JobFacts) -> list[PartLine]:
    holes, lines = facts.holes, []
    if holes.plugs_out and facts.rules.school["inspect_or_replace"] == "replace":
        count = len(holes.plug_holes)
        lines.append(_line("part.plug", holes.plug.part_number, count, say("part.replace")))
    if holes.renewed:
        name, number = f"part.{holes.item}", holes.carrier.part_number
        lines.append(_line(name, number, len(holes.renewed), say("part.asked")))
    lines += _pieces(facts)
    boot = holes.carrier.boot_part if isinstance(holes.carrier, Coil) else None
    kept = len(set(holes.holes) - holes.renewed)
    if boot and kept and "boot" not in facts.job.companions:
        lines.append(_line("part.boot", boot, kept, say("part.open")))
    return [*lines, *_along(facts)]


def _along(facts: JobFacts) -> list[PartLine]:
    """What companion work renews."""
    return [
        PartLine(
            name=part.name,
            part_number=part.part_number or "",
            quantity=part.count,
            why=inside(facts.engine.companions[key].name),
        )
        for key in facts.job.companions
        for part in facts.engine.companions[key].parts
    ]


# The pieces that are renewed where they are asked for.
_PIECES: tuple[tuple[Work, PieceKey], ...] = (
    (Work.CAP, "cap"),
    (Work.ROTOR, "rotor"),
    (Work.POINTS, "points"),
    (Work.COIL_LEAD, "coil-lead"),
    (Work.PACK, "pack"),
)


def _pieces(facts: JobFacts) -> list[PartLine]:
    """Cap, rotor, points, coil lead and pack; a pick-up is set, not renewed."""
    asked = [
        key
        for work, key in _PIECES
        if work in facts.job.places and not (key == "points" and facts.engine.contactless)
    ]
    numbers = {key: piece.part_number for key, piece in facts.engine.pieces.items()}
    return [_line(f"part.{key}", numbers.get(key) or "", 1, say("part.asked")) for key in asked]


def _line(name: str, number: str, quantity: int, why: str) -> PartLine:
    return PartLine(name=say(name), part_number=number, quantity=quantity, why=why)


def _one_time(facts: JobFacts) -> list[PartLine]:
    ways = facts.ways
    return [
        PartLine(
            name=say(
                "joint.of_part",
                part=ways.part(option).name,
                noun=bare_name(joint.model_copy(update={"count": 1})),
            ),
            part_number=joint.part_number or "",
            quantity=joint.count,
            why=say("part.once"),
        )
        for option in ways.moves
        for joint in ways.released(option).values()
        if joint.one_time or joint.kind is JointKind.GASKET
    ]


def _compounds(facts: JobFacts) -> list[PartLine]:
    holes, lines = facts.holes, []
    if holes.plugs_out and facts.figures.compound():
        oil = facts.rules.school["thread_compound"] == "oil"
        why = say("part.threads", count=len(holes.plug_holes))
        lines.append(_line("part.oil" if oil else "part.compound", "", 1, why))
    greased = facts.rules.school["dielectric_grease"] != "none" and not holes.boot_greased
    if holes.holes and greased:
        why = say("part.boots", count=len(holes.holes))
        lines.append(_line("part.grease", "", 1, why))
    return lines


def part_numbers(facts: JobFacts) -> dict[str, str]:
    """The numbers of what the job touches, so that a bay can ask for what it found broken."""
    holes = facts.holes
    boot = holes.carrier.boot_part if isinstance(holes.carrier, Coil) else None
    found = {"plug": holes.plug.part_number, holes.item: holes.carrier.part_number, "boot": boot}
    for joint, made in holes.carrier.joints.items():
        found[f"{holes.item}/{joint}"] = made.part_number
    for option in facts.ways.moves:
        found[option.part] = facts.ways.part(option).part_number
        for joint, made in facts.ways.released(option).items():
            found[f"{option.part}/{joint}"] = made.part_number
    for key in facts.job.companions:
        for part in facts.engine.companions[key].parts:
            found[f"{key}/{part.name}"] = part.part_number
    return {key: number for key, number in found.items() if number}
