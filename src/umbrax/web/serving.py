"""The server: one thread takes all requests in, however slowly they come, and hands only whole ones to the threads that answer."""

import signal
import tempfile
from types import FrameType

import waitress

from umbrax.media.uploading import LARGEST
from umbrax.settings import read_settings

from .app import make_app
from .gate import MOST

QUICK = 24  # threads beside those that may wait for the gate
CONNECTIONS = 2000
IDLE_SECONDS = 30  # a connection over which nothing comes is closed
HEADER_BYTES = 64 << 10


def serve(host: str, port: int) -> None:
    """Answer until told to stop; what is being answered then is finished first."""
    settings = read_settings()
    settings.uploads.mkdir(parents=True, exist_ok=True)
    tempfile.tempdir = str(settings.uploads)  # large pieces of uploads are put aside on the disk that they go to
    signal.signal(signal.SIGTERM, _stop)
    app = make_app(settings)
    app.extensions["umbrax"].engine.keep_memory()
    waitress.serve(
        app, host=host, port=port, threads=MOST + QUICK, connection_limit=CONNECTIONS, channel_timeout=IDLE_SECONDS,
        cleanup_interval=5, channel_request_lookahead=1, asyncore_use_poll=True, max_request_header_size=HEADER_BYTES,
        max_request_body_size=LARGEST, inbuf_overflow=32 << 20, ident=None, clear_untrusted_proxy_headers=True, _quiet=True,
    )  # fmt: skip


def _stop(_: int, __: FrameType | None) -> None:
    raise SystemExit(0)
