"""Quick sums: the small arithmetic of the bay, each with its formula and the numbers in it."""

from eldrim.core.sums.table import SUMS, Answer, Field, Sum, work_out

__all__ = ["SUMS", "Answer", "Field", "Sum", "work_out"]
