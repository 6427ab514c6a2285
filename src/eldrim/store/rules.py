"""House rules by version."""

from eldrim.core.rules.house import DEFAULT_RULES, HouseRules
from eldrim.store.tables import RulesRow
from eldrim.store.versions import Versions

RULES = Versions(RulesRow, HouseRules, DEFAULT_RULES)
in_force, save, history = RULES.in_force, RULES.save, RULES.history
