"""The server: one thread takes all requests in, however slowly they come, and hands only whole ones to the threads that answer."""

import signal
import tempfile
from pathlib import Path
from types import FrameType

import waitress

from umbrax.core.document.edits import fresh_id
from umbrax.media.uploading import LARGEST
from umbrax.settings import Settings, read_settings
from umbrax.store.folders import publish

from .app import make_app
from .gate import MOST
from .state import State

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
    shared: State = app.extensions["umbrax"]
    shared.engine.keep_memory()
    publish(shared.database, _named(settings))
    waitress.serve(
        app, host=host, port=port, threads=MOST + QUICK, connection_limit=CONNECTIONS, channel_timeout=IDLE_SECONDS,
        cleanup_interval=5, channel_request_lookahead=1, asyncore_use_poll=True, max_request_header_size=HEADER_BYTES,
        max_request_body_size=LARGEST, inbuf_overflow=32 << 20, ident=None, clear_untrusted_proxy_headers=True, _quiet=True,
    )  # fmt: skip


def _named(settings: Settings) -> dict[str, Path]:
    """The folders that workers on other machines need, by the names they know them by."""
    named = {"uploads": settings.uploads, "renders": settings.renders, "baked": settings.baked, "demo": settings.demo}
    for path in settings.media:
        named[fresh_id(named, path.name)] = path
    return {name: path.resolve() for name, path in named.items()}


def _stop(_: int, __: FrameType | None) -> None:
    raise SystemExit(0)
