"""What a sheet lacks to be releasable, each with the place where it is put right."""

from typing import NamedTuple

from eldrim.core.capture.propose import proposals
from eldrim.core.consistency import check
from eldrim.core.engine.joints import JointKind
from eldrim.core.engine.model import TO_STATE, Engine
from eldrim.core.figures.sheet import look_up
from eldrim.core.reachable import unreachable
from eldrim.core.words.messages import gettext

FIGURES = "figures"


class Missing(NamedTuple):
    """One thing lacking: in words, and the place, a part's key or ``figures`` or ``file``.

    ``asked`` marks what the drawing asks: an answer puts it right.
    """

    words: str
    place: str
    bars: bool = False
    asked: bool = False


def missing(engine: Engine) -> list[Missing]:
    """Everything that keeps a sheet from being released from, what bars it first."""
    wrong = check(engine)
    problems = wrong or unreachable(engine)
    found = [
        Missing(f"{problem.path}: {problem.message}", _place(engine, problem.path), bars=True)
        for problem in problems
    ]
    found += [
        Missing(
            gettext("{words}: does it hinder?", words=proposal.words),
            proposal.part,
            bars=True,
            asked=True,
        )
        for proposal in proposals(engine)
    ]
    return found + figures_lacking(engine) + _parts(engine)


def figures_lacking(engine: Engine) -> list[Missing]:
    """The figures of a sheet without a source, and those whose sources disagree unsettled."""
    return _unsourced(engine) + _unsettled(engine)


def _place(engine: Engine, path: str) -> str:
    named = [part for part in engine.parts if f"parts.{part}." in f"{path}." or f"{part} " in path]
    return named[0] if named else (FIGURES if path.startswith(("figures", "plugs")) else "file")


def _unsourced(engine: Engine) -> list[Missing]:
    found = [
        Missing(
            gettext(
                "{key} {figure}: no source stated",
                key=gettext(key.replace("-", " ")),
                figure=figure.value,
            ),
            FIGURES,
            bars=True,
        )
        for key, stated in engine.figures.items()
        for figure in stated
        if figure.source == TO_STATE
    ]
    if any(plug.source == TO_STATE for plug in engine.plugs):
        found.append(Missing(gettext("the plug: no source stated"), FIGURES, bars=True))
    return found


def _unsettled(engine: Engine) -> list[Missing]:
    found = []
    for variant, described in engine.variants.items():
        named = f" ({described.name})" if len(engine.variants) > 1 else ""
        for key in ("plug-torque", "plug-gap"):
            looked = look_up(engine, key, variant)
            if looked is None or looked.fallback:
                words = gettext(
                    "{key}{named}: not stated, a band stands in",
                    key=gettext(key.replace("-", " ")),
                    named=named,
                )
                found.append(Missing(words, FIGURES))
        found += [
            Missing(
                gettext(
                    "{figure}{named}: two sources disagree",
                    figure=gettext(figure.replace("-", " ")),
                    named=named,
                ),
                FIGURES,
                True,
            )
            for figure in engine.figures
            if (seen := look_up(engine, figure, variant)) and not seen.settled
        ]
    return found


def _parts(engine: Engine) -> list[Missing]:
    found = []
    for key, part in engine.parts.items():
        held = [joint for joint in part.joints.values() if joint.kind is not JointKind.GASKET]
        if not held:
            found.append(
                Missing(
                    gettext(
                        "{part}: nothing holds it, so nothing proves it is back", part=part.name
                    ),
                    key,
                )
            )
        if any(way.estimated for way in part.ways.values()):
            found.append(
                Missing(gettext("{part}: minutes estimated, not timed", part=part.name), key)
            )
    return found
