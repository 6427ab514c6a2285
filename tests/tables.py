"""Tables of cases inside one test, which tries every case and lists all that fail."""

import inspect
from collections.abc import Callable, Iterable
from functools import wraps
from typing import Any

import pytest

# So many are told in full; a fault in one law fails hundreds.
MAX_TOLD = 20
Test = Callable[..., None]


def table(names: str | tuple[str, ...], cases: Iterable[Any], **_: Any) -> Callable[[Test], Test]:
    """Decorate a test of one case, as ``pytest.mark.parametrize`` would: all cases, one test.

    To be collected, handed out and reported costs more than most such cases. Two tables over one
    another try each pair.
    """
    listed = [names] if isinstance(names, str) and "," not in names else names
    keys = [k.strip() for k in listed.split(",")] if isinstance(listed, str) else list(listed)
    rows = [tuple(case) if len(keys) > 1 else (case,) for case in cases]

    def decorate(test: Test) -> Test:
        @wraps(test)
        def every_case(**fixtures: Any) -> None:
            failed = []
            for row in rows:
                try:
                    test(**dict(zip(keys, row, strict=True)), **fixtures)
                except (Exception, pytest.fail.Exception) as error:
                    failed.append(f"{row}: {type(error).__name__}: {error}")
            more = f"\n… and {len(failed) - MAX_TOLD} more" if len(failed) > MAX_TOLD else ""
            told = "\n".join(failed[:MAX_TOLD])
            assert not failed, f"{len(failed)} of {len(rows)} cases fail:\n{told}{more}"

        signature = inspect.signature(test)
        left = [p for name, p in signature.parameters.items() if name not in keys]
        every_case.__signature__ = signature.replace(parameters=left)  # type: ignore[attr-defined]
        assert rows, "a table without a case proves nothing"
        return every_case

    return decorate
