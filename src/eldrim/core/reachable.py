"""Can every hole of a sheet be reached at all?"""

from eldrim.core.access import NoWayInError, build, solve
from eldrim.core.base.errors import Problem
from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work, carrier
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.words.messages import gettext


def unreachable(engine: Engine) -> list[Problem]:
    """Return a problem for every hole no way opens, naming the chain or loop of parts."""
    problems: dict[str, Problem] = {}
    for variant in engine.variants:
        for cylinder in sorted(engine.cylinders):
            job = Job(cylinders=(cylinder,), work=(carrier(engine), Work.PLUG), variant=variant)
            try:
                solve(build(engine, job, DEFAULT_RULES))
            except NoWayInError as error:
                chain = " → ".join(error.chain)
                problems.setdefault(chain, _problem(cylinder, chain, error.loop))
    return sorted(problems.values())


def _problem(cylinder: int, chain: str, loop: bool) -> Problem:
    what = (
        gettext("is a loop: each must be off before the next")
        if loop
        else gettext("has no way open")
    )
    return Problem(
        "hindrances",
        gettext(
            "cylinder {cylinder} cannot be reached: {chain} {what}",
            cylinder=cylinder,
            chain=chain,
            what=what,
        ),
        gettext("state another way or a work-round for one of them"),
    )
