"""Is the sheet consistent? Every problem is found in one pass, each with its path and its fix."""

from collections.abc import Iterator
from difflib import get_close_matches

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.base.quantity import Dimension
from eldrim.core.engine.joints import CLAMPS, FASTENERS
from eldrim.core.engine.model import Coil, Engine, Figure, Lead, Plug, applies
from eldrim.core.engine.parts import Joint, WayKind, place_words
from eldrim.core.engine.targets import FORMS, PLACES, SERVICED, Target, parse_target
from eldrim.core.engine.timing import PieceKey
from eldrim.core.engine.upkeep import Interval
from eldrim.core.figures.bands import band_for, plug_length
from eldrim.core.figures.listing import DIMENSIONS
from eldrim.core.figures.slips import Held, examine
from eldrim.core.operations import OPERATIONS
from eldrim.core.plausible import implausible
from eldrim.core.words.messages import either, gettext


def check(engine: Engine) -> list[Problem]:
    """Return every inconsistency of the sheet, sorted by path; an empty list means none."""
    checks = (
        _cylinders,
        _ignition,
        _waste_spark,
        _shared,
        _own_codes,
        _towers,
        _lead_runs,
        _pieces,
        _timing,
        _companions,
        _pace,
        _intervals,
        _figures,
        _service_items,
        _joints,
        _parts,
        _hindrances,
        implausible,
    )
    return sorted(problem for one in checks for problem in one(engine))


def require_consistent(engine: Engine) -> Engine:
    """Return the engine unchanged, or raise :class:`EngineError` with all problems."""
    problems = check(engine)
    if problems:
        raise EngineError(problems)
    return engine


def _cylinders(engine: Engine) -> Iterator[Problem]:
    numbers = sorted(engine.cylinders)
    missing = sorted(set(range(1, len(numbers) + 1)) - set(numbers))
    for number in missing:
        yield Problem(
            "cylinders",
            gettext("cylinder {number} is missing", number=number),
            gettext("state every cylinder from 1"),
        )
    places: dict[tuple[str, int], int] = {}
    for number, cylinder in engine.cylinders.items():
        path = f"cylinders.{number}"
        if cylinder.bank not in engine.banks:
            yield Problem(
                f"{path}.bank",
                gettext("bank '{bank}' is not in banks", bank=cylinder.bank),
                _one_of(engine.banks),
            )
        twin = places.setdefault((cylinder.bank, cylinder.place), number)
        if twin != number:
            yield Problem(
                f"{path}.place",
                gettext(
                    "cylinder {twin} has place {place} in the same bank",
                    twin=twin,
                    place=cylinder.place,
                ),
                gettext("count places from the timing end"),
            )
        yield from _wells(engine, number)


def _wells(engine: Engine, number: int) -> Iterator[Problem]:
    width, height = engine.layout.plan
    size = {"width": f"{width:g}", "height": f"{height:g}"}
    for index, well in enumerate(engine.cylinders[number].wells):
        if not (0 <= well.at[0] <= width and 0 <= well.at[1] <= height):
            yield Problem(
                f"cylinders.{number}.wells[{index}].at",
                gettext("{at} lies off the plan", at=place_words(well.at)),
                gettext("stay within 0..{width} by 0..{height}", **size),
            )


def _ignition(engine: Engine) -> Iterator[Problem]:
    order = engine.ignition.firing_order
    if sorted(order) != sorted(engine.cylinders):
        yield Problem(
            "ignition.firing_order",
            gettext("{order} does not name every cylinder once", order=list(order)),
            gettext("use each of {cylinders} once", cylinders=sorted(engine.cylinders)),
        )
    for letter, number in engine.ignition.coil_letters.items():
        if number not in engine.cylinders:
            yield Problem(
                f"ignition.coil_letters.{letter}",
                gettext("cylinder {number} does not exist", number=number),
                gettext("use one of {cylinders}", cylinders=sorted(engine.cylinders)),
            )


def _waste_spark(engine: Engine) -> Iterator[Problem]:
    """The two of a pair share a spark, so they stand half the firing order apart."""
    pairs, order = engine.ignition.waste_spark_pairs, engine.ignition.firing_order
    path = "ignition.waste_spark_pairs"
    if pairs and engine.ignition.kind == "coil_on_plug":
        yield Problem(
            path, gettext("each plug has a coil of its own"), gettext("leave the pairs out")
        )
    named = [number for pair in pairs for number in pair]
    for number in sorted({n for n in named if named.count(n) > 1 or n not in engine.cylinders}):
        yield Problem(
            path,
            gettext("cylinder {number} is not in exactly one pair", number=number),
            gettext("name each once"),
        )
    half = len(order) // 2
    for one, other in pairs:
        if {one, other} <= set(order) and abs(order.index(one) - order.index(other)) != half:
            said = gettext(
                "{one} and {other} do not stand half the firing order apart", one=one, other=other
            )
            yield Problem(
                path,
                said,
                gettext("pair the cylinders {half} apart in {order}", half=half, order=list(order)),
            )


def _shared(engine: Engine) -> Iterator[Problem]:
    for key, shared in engine.shared.items():
        for number in sorted(set(shared.cylinders) - set(engine.cylinders)):
            yield Problem(
                f"shared.{key}.cylinders",
                gettext("cylinder {number} does not exist", number=number),
                gettext("use some of {cylinders}", cylinders=sorted(engine.cylinders)),
            )


# What generic codes begin with; what these mean is fixed.
GENERIC = ("P0", "B0", "C0", "U0")
# What a code is about that has to say of which cylinder.
OF_A_CYLINDER = ("misfire", "injector")


def _own_codes(engine: Engine) -> Iterator[Problem]:
    for code, own in engine.own_codes.items():
        path = f"own_codes.{code}"
        if code.startswith(GENERIC) and len(code) == 5:
            yield Problem(
                path,
                gettext("{code} is a generic code", code=code),
                gettext("explain the maker's own alone"),
            )
        if own.cylinder is not None and own.cylinder not in engine.cylinders:
            said = gettext("cylinder {cylinder} does not exist", cylinder=own.cylinder)
            yield Problem(
                f"{path}.cylinder",
                said,
                gettext("use one of {cylinders}", cylinders=sorted(engine.cylinders)),
            )
        if own.cylinder is None and own.about in OF_A_CYLINDER:
            yield Problem(
                f"{path}.cylinder",
                gettext("{about}, but of which?", about=own.about),
                gettext("say the cylinder"),
            )
        if own.bank is not None and own.bank not in engine.banks:
            said = gettext("bank '{bank}' is not in banks", bank=own.bank)
            yield Problem(f"{path}.bank", said, _one_of(engine.banks))


def _towers(engine: Engine) -> Iterator[Problem]:
    """A distributor or a pack fits the kind of ignition, and its towers the engine."""
    ignition, holes = engine.ignition, list(engine.holes)
    kinds = {"distributor": ignition.distributor, "coil_pack": ignition.pack}
    for kind, stated in kinds.items():
        path = f"ignition.{'pack' if kind == 'coil_pack' else kind}"
        if stated is None:
            continue
        if ignition.kind != kind:
            fix = gettext("leave it out, or say kind: {kind}", kind=kind)
            yield Problem(path, gettext("the ignition is {kind}", kind=ignition.kind), fix)
        yield from _on_plan(engine, stated.at, f"{path}.at")
    if ignition.main_coil is not None:
        yield from _on_plan(engine, ignition.main_coil, "ignition.main_coil")
    if ignition.pack and sorted(ignition.pack.towers.values()) != sorted(holes):
        said = gettext("the towers go to {values}", values=", ".join(ignition.pack.towers.values()))
        fix = gettext("one tower to each of {holes}", holes=", ".join(sorted(holes)))
        yield Problem("ignition.pack.towers", said, fix)
    if ignition.distributor:
        yield from _angles(engine, [one.mid for one in ignition.distributor.angles])


def _angles(engine: Engine, angles: list[float]) -> Iterator[Problem]:
    path, count = "ignition.distributor.angles", len(engine.ignition.firing_order)
    if len(engine.holes) != count:
        yield Problem(
            "ignition.distributor",
            gettext(
                "{count} towers do not serve {holes} plugs", count=count, holes=len(engine.holes)
            ),
            gettext("leave the distributor out: its order is not worked out for twin plugs"),
        )
    if angles and len(angles) != count:
        yield Problem(
            path,
            gettext("are {angles}", angles=len(angles)),
            gettext("say {count}: the last goes back to tower one", count=count),
        )
    elif angles and abs(sum(angles) - 360) > 0.5:
        yield Problem(
            path,
            gettext("add up to {angles}°", angles=f"{sum(angles):g}"),
            gettext("all the way round is 360°"),
        )


def _lead_runs(engine: Engine) -> Iterator[Problem]:
    known = [*engine.holes, *(["coil"] if engine.ignition.main_coil else [])]
    for key, run in engine.lead_runs.items():
        path = f"lead_runs.{key}"
        if engine.ignition.kind == "coil_on_plug":
            yield Problem(path, gettext("each plug has a coil of its own"), gettext("leave it out"))
        elif key not in known:
            yield Problem(
                path,
                gettext("'{key}' is no hole", key=key),
                gettext("use one of: {known}", known=", ".join(known)),
            )
        for index, at in enumerate(run.holders):
            yield from _on_plan(engine, at, f"{path}.holders[{index}]")


def _pieces(engine: Engine) -> Iterator[Problem]:
    """Pieces of the ignition that it has; coils on the plugs have none of them."""
    ignition = engine.ignition
    for key in engine.pieces:
        path, of_cap = f"pieces.{key}", key != "pack"
        if of_cap and ignition.distributor is None:
            yield Problem(
                path,
                gettext("the sheet states no distributor"),
                gettext("state it, or leave this out"),
            )
        yield from _cap_part(engine, key, path)
        if not of_cap and ignition.pack is None:
            yield Problem(
                path,
                gettext("the sheet states no coil pack"),
                gettext("state it, or leave this out"),
            )


def _cap_part(engine: Engine, key: PieceKey, path: str) -> Iterator[Problem]:
    """The part that a cap is: one that comes off, in the way of something else than itself."""
    part = engine.pieces[key].part
    if part is None:
        return
    if key != "cap":
        yield Problem(
            f"{path}.part", gettext("only a cap is named as a part"), gettext("leave it out")
        )
        return
    yield from _known(engine.parts, part, f"{path}.part", "part")
    stated = engine.parts.get(part)
    if stated and not any(way.kind is WayKind.REMOVE for way in stated.ways.values()):
        yield Problem(
            f"{path}.part",
            gettext("'{part}' does not come off", part=part),
            gettext("state a way of kind remove"),
        )


def _timing(engine: Engine) -> Iterator[Problem]:
    timing, figures = engine.timing, engine.figures
    if {"points-gap", "dwell"} & set(figures) and engine.contactless:
        fix = gettext("leave out the one it does not have")
        yield Problem(
            "figures.air-gap", gettext("a distributor has points or a pick-up, not both"), fix
        )
    if timing is None:
        return
    if engine.ignition.distributor is None:
        yield Problem(
            "timing",
            gettext("the sheet states no distributor"),
            gettext("state it, or leave this out"),
        )
    yield from _known(engine.sources, timing.source, "timing.source", "source")
    if "timing-total" in figures and "timing-speed" not in figures:
        fix = gettext("state timing-speed, as 3000 rev/min")
        yield Problem(
            "figures.timing-total", gettext("a total holds at a speed that is not stated"), fix
        )
    if timing.pulley is not None and timing.marks and max(timing.marks) - min(timing.marks) >= 180:
        yield Problem(
            "timing.marks", gettext("reach half round the pulley"), gettext("keep them together")
        )
    static = [one.value.mid for one in figures.get("timing-static", ())]
    lowest = min((point.advance.low for point in timing.curve), default=None)
    if static and lowest is not None and lowest < min(static) - 5:
        said = gettext(
            "the curve begins at {lowest}°, under the static timing", lowest=f"{lowest:g}"
        )
        yield Problem("timing.curve", said, gettext("write degrees of the crank, static included"))


def _companions(engine: Engine) -> Iterator[Problem]:
    for key, companion in engine.companions.items():
        path = f"companions.{key}"
        if key in (*PLACES, *SERVICED):
            yield Problem(
                path,
                gettext("'{key}' is a kind of work already", key=key),
                gettext("choose another key"),
            )
        yield from _variants(engine, companion.variants, path)
        if companion.at is not None:
            yield from _on_plan(engine, companion.at, f"{path}.at")
        for number in companion.coils_off:
            if number not in engine.cylinders:
                said = gettext("cylinder {number} does not exist", number=number)
                yield Problem(
                    f"{path}.coils_off",
                    said,
                    gettext("use some of {cylinders}", cylinders=sorted(engine.cylinders)),
                )
        for step_key, step in companion.steps.items():
            for field, named in (("undo", step.undo), ("do_up", step.do_up)):
                if named is not None:
                    at = f"{path}.steps.{step_key}.{field}"
                    yield from _known(companion.joints, named, at, "joint")
            if step.figure is not None:
                yield from _known(
                    engine.figures, step.figure, f"{path}.steps.{step_key}.figure", "figure"
                )


def _pace(engine: Engine) -> Iterator[Problem]:
    acts = {act.value: None for act, rule in OPERATIONS.items() if rule.minutes is not None}
    for key in engine.pace:
        yield from _known(acts, key, f"pace.{key}", "act")


# What is due beside what is worked on at a hole or a place.
DUE_BESIDES = ("boot",)


def _intervals(engine: Engine) -> Iterator[Problem]:
    known = dict.fromkeys([*SERVICED, *DUE_BESIDES, *PLACES, *engine.companions])
    for index, interval in enumerate(engine.intervals):
        path = f"intervals[{index}]"
        yield from _known(known, interval.of, f"{path}.of", "thing")
        yield from _known(engine.sources, interval.source, f"{path}.source", "source")
        yield from _variants(engine, interval.variants, path)
        yield from _severe(interval, path)


def _severe(interval: Interval, path: str) -> Iterator[Problem]:
    """Severe use shortens what is stated."""
    pairs = (
        ("distance", interval.distance, interval.severe.distance),
        ("hours", interval.hours, interval.severe.hours),
    )
    for field, usual, severe in pairs:
        if usual and severe and severe.mid > usual.mid:
            said = gettext("{severe} is more than {usual}", severe=severe.text, usual=usual.text)
            yield Problem(
                f"{path}.severe.{field}", said, gettext("severe use shortens an interval")
            )


def _on_plan(engine: Engine, at: tuple[float, float], path: str) -> Iterator[Problem]:
    width, height = engine.layout.plan
    if not (0 <= at[0] <= width and 0 <= at[1] <= height):
        fix = gettext(
            "stay within 0..{width} by 0..{height}", width=f"{width:g}", height=f"{height:g}"
        )
        yield Problem(path, gettext("{at} lies off the plan", at=place_words(at)), fix)


def _figures(engine: Engine) -> Iterator[Problem]:
    for key, figures in engine.figures.items():
        for index, figure in enumerate(figures):
            path = f"figures.{key}[{index}]"
            yield from _known(engine.sources, figure.source, f"{path}.source", "source")
            yield from _variants(engine, figure.variants, path)
            wanted = None if key.startswith("interval") else DIMENSIONS.get(key)
            if wanted and figure.value.dimension is not wanted:
                yield Problem(
                    f"{path}.value",
                    gettext(
                        "'{figure}' measures {dimension}, not {wanted}",
                        figure=figure.value,
                        dimension=figure.value.dimension.words,
                        wanted=wanted.words,
                    ),
                    gettext("write it with a unit of {wanted}", wanted=wanted.words),
                )
            yield from _outside(engine, key, figure, path)
        for variant in engine.variants:
            yield from _settled_twice(figures, key, variant)


def _outside(engine: Engine, key: str, figure: Figure, path: str) -> Iterator[Problem]:
    """A figure outside its band holds only if somebody looked again and said so."""
    value = figure.value
    variant = next(iter(figure.variants or engine.variants))
    band = None if figure.confirmed else band_for(engine, key, variant, value.dimension)
    if band is None or band.dimension is not value.dimension:
        return
    held = examine(value.text, band, value.dimension)
    if isinstance(held, Held):
        yield Problem(f"{path}.value", f"{held.why}; {held.band}", _likely(held))


def _likely(held: Held) -> str:
    readings = either(f"{reading.text} ({reading.how})" for reading in held.readings)
    meant = gettext("likely meant: {readings}; ", readings=readings) if readings else ""
    return gettext("{meant}otherwise add confirmed: and say why it holds", meant=meant)


def _settled_twice(figures: tuple[Figure, ...], key: str, variant: str) -> Iterator[Problem]:
    for lubricated in (False, True):
        settled = [
            figure
            for figure in figures
            if figure.settled
            and applies(figure.variants, variant)
            and figure.lubricated == lubricated
        ]
        if len(settled) > 1:
            yield Problem(
                f"figures.{key}",
                gettext("two figures are both settled for variant '{variant}'", variant=variant),
                gettext("let only one of them hold"),
            )


def _service_items(engine: Engine) -> Iterator[Problem]:
    on_plug = engine.ignition.kind == "coil_on_plug"
    if on_plug and not engine.coils:
        yield Problem(
            "coils", gettext("coil on plug, but no coil is described"), gettext("describe the coil")
        )
    if not on_plug and not engine.leads:
        yield Problem(
            "leads",
            gettext("plugs are fed by leads, but none is described"),
            gettext("describe the lead"),
        )
    for index, plug in enumerate(engine.plugs):
        yield from _known(engine.sources, plug.source, f"plugs[{index}].source", "source")
        yield from _plug_lengths(plug, f"plugs[{index}]")
        yield from _variants(engine, plug.variants, f"plugs[{index}]")
    for variant in engine.variants:
        for path, items in (("plugs", engine.plugs), ("coils", engine.coils)):
            fits = [item for item in items if not item.variants or variant in item.variants]
            if items and len(fits) != 1:
                yield Problem(
                    path,
                    gettext(
                        "{fits} entries apply to variant '{variant}'; exactly one must",
                        fits=len(fits),
                        variant=variant,
                    ),
                    gettext("set variants on each entry"),
                )


def _plug_lengths(plug: Plug, path: str) -> Iterator[Problem]:
    for field in () if plug.confirmed else ("reach", "hex", "height", "gap_supplied"):
        held = examine(getattr(plug, field).text, plug_length(field), Dimension.LENGTH)
        if isinstance(held, Held):
            yield Problem(f"{path}.{field}", f"{held.why}; {held.band}", _likely(held))


def _joints(engine: Engine) -> Iterator[Problem]:
    owners = [(f"parts.{key}", part.joints) for key, part in engine.parts.items()]
    owners += [(f"coils[{index}]", coil.joints) for index, coil in enumerate(engine.coils)]
    owners += [(f"leads[{i}]", lead.joints) for i, lead in enumerate(engine.leads)]
    owners += [(f"pieces.{key}", piece.joints) for key, piece in engine.pieces.items()]
    owners += [(f"companions.{key}", one.joints) for key, one in engine.companions.items()]
    for path, joints in owners:
        for key, joint in joints.items():
            yield from _joint(engine, joint, f"{path}.joints.{key}")


def _joint(engine: Engine, joint: Joint, path: str) -> Iterator[Problem]:
    fastener = joint.kind in FASTENERS
    if fastener and (joint.head is None or joint.size is None):
        yield Problem(
            path,
            gettext("a fastener needs head and size"),
            gettext("add e.g. head: hex, size: 10 mm"),
        )
    if not fastener and (joint.head is None) != (joint.size is None):
        fix = gettext("state both, as head: hex, size: 7 mm")
        yield Problem(path, gettext("a clamp's driver needs head and size"), fix)
    if not fastener and joint.head is not None and joint.kind not in CLAMPS:
        yield Problem(
            f"{path}.head",
            gettext("a {kind} is not turned", kind=joint.kind),
            gettext("remove head and size"),
        )
    if not fastener and joint.torque:
        yield Problem(
            f"{path}.torque",
            gettext("a {kind} has no torque", kind=joint.kind),
            gettext("remove torque"),
        )
    if joint.torque:
        yield from _torque(engine, joint.torque, f"{path}.torque")
    if joint.at and len(joint.at) != joint.count:
        yield Problem(
            f"{path}.at",
            gettext("{at} places for a count of {count}", at=len(joint.at), count=joint.count),
            gettext("give one place for each, or none"),
        )


def _torque(engine: Engine, key: str, path: str) -> Iterator[Problem]:
    if key not in engine.figures:
        yield Problem(
            path, gettext("figure '{key}' is not in figures", key=key), _one_of(engine.figures)
        )
    elif any(figure.value.dimension is not Dimension.TORQUE for figure in engine.figures[key]):
        yield Problem(
            path,
            gettext("figure '{key}' is not a torque", key=key),
            gettext("name a torque figure"),
        )


def _parts(engine: Engine) -> Iterator[Problem]:
    for key, part in engine.parts.items():
        path = f"parts.{key}"
        yield from _variants(engine, part.variants, path)
        if key in ("hole", "joint", "work"):
            yield Problem(
                path, gettext("'{key}' is a reserved word", key=key), gettext("choose another key")
            )
        if not part.ways and not part.fixed:
            fix = gettext("state at least one way, or fixed: true where it never moves")
            yield Problem(f"{path}.ways", gettext("no way moves this part"), fix)
        if part.ways and part.fixed:
            yield Problem(
                f"{path}.fixed",
                gettext("a fixed part has no ways"),
                gettext("leave one of them out"),
            )
        for other in part.pushes_onto:
            yield from _known(engine.parts, other, f"{path}.pushes_onto", "part")
            if other == key:
                yield Problem(
                    f"{path}.pushes_onto",
                    gettext("a part is not pushed onto itself"),
                    gettext("name another"),
                )
        for way_key, way in part.ways.items():
            for joint in way.releases or ():
                yield from _known(part.joints, joint, f"{path}.ways.{way_key}.releases", "joint")
        for other in part.refit_after:
            yield from _known(engine.parts, other, f"{path}.refit_after", "part")


def _hindrances(engine: Engine) -> Iterator[Problem]:
    for index, hindrance in enumerate(engine.hindrances):
        path = f"hindrances[{index}]"
        yield from _variants(engine, hindrance.variants, path)
        part = engine.parts.get(hindrance.part)
        if part is None:
            yield from _known(engine.parts, hindrance.part, f"{path}.part", "part")
        else:
            for way in hindrance.cleared_by:
                yield from _known(part.ways, way, f"{path}.cleared_by", "way")
        for key, work in hindrance.rounds.items():
            for other in work.needs:
                yield from _known(engine.parts, other, f"{path}.rounds.{key}.needs", "part")
        for text in hindrance.of:
            yield from _target(engine, text, f"{path}.of", hindrance.part)


def _target(engine: Engine, text: str, path: str, by: str) -> Iterator[Problem]:
    target = parse_target(text)
    if target is None:
        yield Problem(path, gettext("'{text}' is not a target", text=text), FORMS)
    elif target.item and not target.hole:
        places = dict.fromkeys([*PLACES, *engine.companions])
        yield from _known(places, target.item, path, "work")
    elif target.hole:
        if target.hole not in engine.holes:
            yield Problem(
                path,
                gettext("hole '{hole}' does not exist", hole=target.hole),
                _one_of(engine.holes),
            )
        if target.joint:
            fits: list[Coil | Lead] = [*engine.coils, *engine.leads]
            joints = {key: joint for fit in fits for key, joint in fit.joints.items()}
            yield from _known(joints, target.joint, path, "joint")
    elif target.part:
        yield from _part_target(engine, target, path, by)


def _part_target(engine: Engine, target: Target, path: str, by: str) -> Iterator[Problem]:
    part = engine.parts.get(target.part)
    if part is None:
        yield from _known(engine.parts, target.part, path, "part")
    elif target.part == by:
        yield Problem(
            path, gettext("'{by}' stands in its own way", by=by), gettext("name another part")
        )
    elif target.way:
        yield from _known(part.ways, target.way, path, "way")
    elif target.joint:
        yield from _known(part.joints, target.joint, path, "joint")
        joint = part.joints.get(target.joint)
        pieces = [int(number) for number in target.pieces.split(",") if number]
        if joint is not None and pieces and not 1 <= min(pieces) <= max(pieces) <= joint.count:
            said = gettext("there are {count} of '{joint}'", count=joint.count, joint=target.joint)
            yield Problem(path, said, gettext("number them 1 to {count}", count=joint.count))


def _known(table: dict[str, object] | object, key: str, path: str, what: str) -> Iterator[Problem]:
    assert isinstance(table, dict)
    if key not in table:
        yield Problem(
            path, gettext("{what} '{key}' does not exist", what=what, key=key), _nearest(key, table)
        )


def _variants(engine: Engine, variants: tuple[str, ...], path: str) -> Iterator[Problem]:
    for variant in variants:
        yield from _known(engine.variants, variant, f"{path}.variants", "variant")


def _nearest(key: str, table: dict[str, object]) -> str:
    """The nearest word there is, else all of them."""
    near = get_close_matches(key, list(map(str, table)), n=1, cutoff=0.6)
    return gettext("did you mean '{near}'?", near=near[0]) if near else _one_of(table)


def _one_of(keys: object) -> str:
    assert isinstance(keys, dict)
    return (
        gettext("use one of: {value}", value=", ".join(map(str, keys)))
        if keys
        else gettext("none is stated yet")
    )
