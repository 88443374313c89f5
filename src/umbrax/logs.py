"""What the server and the worker write to their logs: one line an event, and plain tracebacks.

A traceback that prints local variables would write the database's password and people's documents to the log.
"""

import structlog


def configure_logs() -> None:
    """Call once, where a process that logs begins."""
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper("iso"),
            structlog.dev.ConsoleRenderer(colors=False, exception_formatter=structlog.dev.plain_traceback),
        ],
        cache_logger_on_first_use=True,
    )
