"""The service's log: one line an event, no values of variables, no secret that this process knows.

A traceback tells files, lines and the fault's own text. What variables held at that moment is never in it: they hold
passwords, tokens and other people's pages.
"""

from __future__ import annotations

import logging
import sys
import traceback
from typing import Any, TextIO

import structlog
from structlog.typing import EventDict, WrappedLogger

from highshelf.store.redacting import known_secrets


def without_secrets(logger: WrappedLogger, method: str, event: EventDict) -> EventDict:
    """The event with every secret masked that was opened in this process, wherever in it one stands."""
    return {name: _masked(value) for name, value in event.items()}


def _masked(value: Any) -> Any:
    if isinstance(value, str):
        return known_secrets.redact(value)
    if isinstance(value, dict):
        return {_masked(k): _masked(v) for k, v in value.items()}
    if isinstance(value, (list, tuple, set)):
        return [_masked(v) for v in value]
    return value if isinstance(value, (int, float, bool, type(None))) else known_secrets.redact(str(value))


def _trace(logger: WrappedLogger, method: str, event: EventDict) -> EventDict:
    found = event.pop("exc_info", None)
    if found is True:
        found = sys.exc_info()
    if isinstance(found, BaseException):
        found = (type(found), found, found.__traceback__)
    if found and found[0] is not None:
        event["trace"] = "".join(traceback.format_exception(*found)).rstrip()
    return event


class _Plain(logging.Formatter):
    """Lines of libraries, masked like our own; their tracebacks have no variables in them anyway."""

    def format(self, record: logging.LogRecord) -> str:
        return known_secrets.redact(super().format(record))


def set_up_logs(to: TextIO | None = None) -> None:
    """For the whole process, to standard error or where it is said; once, before anything is logged."""
    stream = to or sys.stderr
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            _trace,
            without_secrets,
            structlog.processors.KeyValueRenderer(key_order=["timestamp", "level", "event"]),
        ],
        logger_factory=structlog.PrintLoggerFactory(stream),
        cache_logger_on_first_use=False,
    )
    handler = logging.StreamHandler(stream)
    handler.setFormatter(_Plain("%(asctime)s %(levelname)s %(name)s %(message)s"))
    logging.root.handlers[:] = [handler]
    logging.root.setLevel(logging.WARNING)
    # What logging prints of its own troubles has the arguments in it as they are.
    logging.raiseExceptions = False
