"""What keeps other sites out: hosts that may be asked for, writes from the page's own origin alone, and what browsers are told."""

from urllib.parse import urlsplit

from flask import Response, request

from umbrax.core.errors import UmbraxError

LOOPBACK = frozenset({"127.0.0.1", "localhost", "[::1]"})
SAFE = frozenset({"GET", "HEAD", "OPTIONS"})
# what the page may load: nothing from elsewhere, and no script that is not a file of its own (W3C Content Security Policy Level 3);
# styles are set by scripts while menus and dialogs are open
POLICY = "; ".join(
    (
        "default-src 'self'", "script-src 'self'", "style-src 'self' 'unsafe-inline'", "img-src 'self' blob: data:", "connect-src 'self'",
        "font-src 'self'", "worker-src 'self' blob:", "object-src 'none'", "base-uri 'none'", "form-action 'self'", "frame-ancestors 'none'",
    )
)  # fmt: skip
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}


def refuse_foreign(hosts: frozenset[str]) -> None:
    """Refuse a request for another host, which a name that was pointed here may send, and a write that another site's page sends."""
    if urlsplit(f"//{request.host}").netloc != request.host or without_port(request.host) not in LOOPBACK | hosts:
        raise _refused(f"this server does not answer for {request.host[:80]!r}; name it in UMBRAX_HOSTS if it should", 421)
    if request.method in SAFE:
        return
    origin, site = request.headers.get("Origin"), request.headers.get("Sec-Fetch-Site", "none")
    own = {f"{request.scheme}://{request.host}"}
    if without_port(request.host) in LOOPBACK:
        own.add(f"http://{request.host}")  # on this computer itself it is asked past the proxy that speaks TLS
    if (origin is not None and origin not in own) or site not in ("same-origin", "none"):
        raise _refused("changes are only taken from this page itself; open it by its own address", 403)


def without_port(host: str) -> str:
    """The name or address in a Host header."""
    name, colon, port = host.rpartition(":")
    return name if colon and port.isdigit() else host


def _refused(message: str, status: int) -> UmbraxError:
    return UmbraxError("foreign", message, status=status)


def say_to_browsers(response: Response) -> Response:
    """Put the headers that keep other sites out on every answer."""
    for name, value in HEADERS.items():
        response.headers.setdefault(name, value)
    return response
