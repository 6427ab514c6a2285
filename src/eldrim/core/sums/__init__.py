"""Quick sums: the small arithmetic of the bay, each with its formula and the numbers in it."""

from eldrim.core.sums.table import SUMS, Field, Sum, SumResult, work_out

__all__ = ["SUMS", "Field", "Sum", "SumResult", "work_out"]
