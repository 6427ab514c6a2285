"""How the log is written: one line an event, for people or for machines."""

import logging
import sys
from typing import Any, Literal

import structlog
from structlog.typing import EventDict, WrappedLogger

from eldrim.web.request_log import fault_facts

# What is never written down, whoever puts it into an event.
SECRET = ("password", "pin", "token", "csrf", "cookie", "code", "hash", "url")


def keep_secrets(_: WrappedLogger, __: str, event: EventDict) -> EventDict:
    """Take the value from what is called like a secret."""
    return {
        key: "(kept)" if any(key.endswith(word) for word in SECRET) else value
        for key, value in event.items()
    }


def plain_faults(_: WrappedLogger, __: str, event: EventDict) -> EventDict:
    """A fault by its kind and place; a traceback may quote what was typed, or a row."""
    fault = event.pop("exc_info", None)
    if fault is True:
        fault = sys.exc_info()
    if isinstance(fault, tuple):
        fault = fault[1]
    return {**event, **fault_facts(fault)} if isinstance(fault, BaseException) else event


def set_up(form: Literal["words", "json"] = "words", level: int = logging.INFO) -> None:
    """Write to standard error, where a service manager takes it from; uvicorn's lines too."""
    shared: list[Any] = [
        structlog.contextvars.merge_contextvars,
        structlog.stdlib.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
        plain_faults,
        keep_secrets,
    ]
    last: Any = structlog.processors.JSONRenderer(ensure_ascii=False)
    if form == "words":
        last = structlog.dev.ConsoleRenderer(colors=False, pad_event_to=12)
    structlog.configure(
        processors=[*shared, last],
        wrapper_class=structlog.make_filtering_bound_logger(level),
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
        cache_logger_on_first_use=False,
    )
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(
        structlog.stdlib.ProcessorFormatter(
            foreign_pre_chain=shared,
            processors=[structlog.stdlib.ProcessorFormatter.remove_processors_meta, last],
        )
    )
    logging.basicConfig(handlers=[handler], level=max(level, logging.WARNING), force=True)
