"""The server: one thread takes all requests in, however slowly they come, and hands only whole ones to the threads that answer."""

import signal
import tempfile
from ipaddress import ip_address
from pathlib import Path
from types import FrameType

import waitress

from umbrax.core.document.edits import fresh_id
from umbrax.core.errors import UmbraxError
from umbrax.media.uploading import LARGEST
from umbrax.settings import Settings, read_settings
from umbrax.store.folders import publish
from umbrax.store.people import an_admin_has_a_password

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
    if not _from_here_alone(host, settings) and not an_admin_has_a_password(shared.database):
        raise UmbraxError(
            "no-password", f"nobody would be kept out: before the server can be reached beyond this computer ({_reached(host, settings)}), "
            "set a password with 'bin/umbrax people password'",
        )  # fmt: skip
    shared.engine.keep_memory()
    publish(shared.database, _named(settings))
    # what stands in front, on this computer, says whom it asks for: else all who come through it would be one
    front = {"trusted_proxy": "127.0.0.1", "trusted_proxy_headers": {"x-forwarded-for"}} if settings.hosts else {}
    waitress.serve(
        app, host=host, port=port, threads=MOST + QUICK, connection_limit=CONNECTIONS, channel_timeout=IDLE_SECONDS,
        cleanup_interval=5, channel_request_lookahead=1, asyncore_use_poll=True, max_request_header_size=HEADER_BYTES,
        url_scheme="https" if settings.https else "http", max_request_body_size=LARGEST,
        inbuf_overflow=32 << 20, ident=None, clear_untrusted_proxy_headers=True, _quiet=True,
        **front,
    )  # fmt: skip


def _from_here_alone(host: str, settings: Settings) -> bool:
    """Whether only this computer can reach the server: a name it answers by means that something in front hands requests on."""
    try:
        return not settings.hosts and (host == "localhost" or ip_address(host).is_loopback)
    except ValueError:
        return False


def _reached(host: str, settings: Settings) -> str:
    return ", ".join(sorted(settings.hosts)) or host


def _named(settings: Settings) -> dict[str, Path]:
    """The folders that workers on other machines need, by the names they know them by."""
    named = {"uploads": settings.uploads, "renders": settings.renders, "baked": settings.baked, "demo": settings.demo}
    for path in settings.media:
        named[fresh_id(named, path.name)] = path
    return {name: path.resolve() for name, path in named.items()}


def _stop(_: int, __: FrameType | None) -> None:
    raise SystemExit(0)
