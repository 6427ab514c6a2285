"""What it costs to get at each hole on its own."""

from eldrim.core.access.errors import NoWayInError
from eldrim.core.access.problem import build
from eldrim.core.access.solve import WayIn, solve
from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work, carrier
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.shop_capability import ShopCapability


def access_costs(
    engine: Engine, variant: str, rules: HouseRules, capability: ShopCapability | None = None
) -> dict[str, float]:
    """Return the minutes (risk priced in) of the cheapest way in to each hole alone."""
    costs: dict[str, float] = {}
    for cylinder in engine.cylinders:
        job = Job(cylinders=(cylinder,), work=(carrier(engine), Work.PLUG), variant=variant)
        found = cheapest(engine, job, rules, capability).cost / 100
        costs.update(dict.fromkeys(engine.holes_of(cylinder), found))
    return costs


def cheapest(
    engine: Engine, job: Job, rules: HouseRules, capability: ShopCapability | None
) -> WayIn:
    """The cheapest way in with this crib; where it opens nothing, with tools still to get."""
    try:
        return solve(build(engine, job, rules, capability))
    except NoWayInError:
        if capability is None:
            raise
        return solve(build(engine, job, rules))


def levels(costs: dict[str, float]) -> dict[str, int]:
    """Sort the holes into three bands of cost, 0 the cheapest, for hatching."""
    least, most = min(costs.values()), max(costs.values())
    span = (most - least) or 1.0
    return {key: min(2, int(3 * (cost - least) / span)) for key, cost in costs.items()}
