"""The shop's tools by version; the usual tools where the shop has listed none."""

from eldrim.core.tools.crib import Crib
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.store.tables import CribRow
from eldrim.store.versions import Versions

CRIB = Versions(CribRow, Crib, STANDARD_CRIB)
in_force, save, history = CRIB.in_force, CRIB.save, CRIB.history
