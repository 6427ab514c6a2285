"""Quick sums: the small arithmetic of the bay, each with its formula and the numbers in it."""

from eldrim.core.sums.field import Field, Sum, SumResult
from eldrim.core.sums.given import Shop
from eldrim.core.sums.table import SUMS, examples, work_out

__all__ = ["SUMS", "Field", "Shop", "Sum", "SumResult", "examples", "work_out"]
