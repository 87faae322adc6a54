"""Structured logs: one JSON object a line on standard error."""

import logging
import logging.config
from typing import Any

import structlog

_SHARED: list[Any] = [
    structlog.contextvars.merge_contextvars,
    structlog.stdlib.add_log_level,
    structlog.stdlib.add_logger_name,
    structlog.processors.TimeStamper(fmt="iso", utc=True),
    structlog.processors.format_exc_info,
]


def configure(level: str = "INFO") -> None:
    """Send the standard library's and our own logs through one JSON formatter."""
    logging.captureWarnings(True)
    structlog.configure(
        processors=[*_SHARED, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        logger_factory=structlog.stdlib.LoggerFactory(),
        cache_logger_on_first_use=True,
    )
    logging.config.dictConfig(
        {
            "version": 1,
            "disable_existing_loggers": False,
            "formatters": {
                "json": {
                    "()": structlog.stdlib.ProcessorFormatter,
                    "foreign_pre_chain": _SHARED,
                    "processor": structlog.processors.JSONRenderer(),
                }
            },
            "handlers": {"stderr": {"class": "logging.StreamHandler", "formatter": "json"}},
            "root": {"handlers": ["stderr"], "level": level},
            "loggers": {
                "uvicorn.access": {"level": "WARNING"},
                "httpx": {"level": "WARNING"},
                # It tells each time that it begins to look and that nothing is left.
                "django_tasks_db": {"level": "WARNING"},
            },
        }
    )
