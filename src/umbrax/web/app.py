"""The application: blueprints, one error handler, and the built page."""

import mimetypes
import re
from pathlib import Path

import structlog
from flask import Response, jsonify, request, send_from_directory
from flask_openapi3 import Info, OpenAPI
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException

from umbrax import __version__
from umbrax.core.document.text import first_problem
from umbrax.core.errors import Cancelled, UmbraxError
from umbrax.logs import configure_logs
from umbrax.media.disk import disk_full, is_full
from umbrax.media.openfiles import raise_limit
from umbrax.settings import PROJECT, Settings, read_settings

from . import (
    attaching,
    browsing,
    card_edits,
    card_facts,
    checking,
    comments,
    describing,
    handoff,
    history,
    looks,
    matte_facts,
    offering,
    queue,
    recipes,
    scopes,
    seat,
    sheets,
    shots,
    shows,
    sources,
    takein,
    touching,
    uploads,
    versions,
    written,
)
from .outsiders import refuse_foreign, say_to_browsers
from .people import accounts, addresses, signing_in, tokens
from .people.identity import sign_with
from .people.rights import check_rights
from .state import State, make_state, state
from .telling import told_of

NUL = re.compile(rb"(?<!\\)(?:\\\\)*\\u0000")  # as JSON writes one
PAGE = PROJECT / "frontend" / "dist"
mimetypes.add_type("font/woff2", ".woff2")
MODULES = (
    shows, shots, looks, scopes, sheets, touching, offering, matte_facts, card_facts, seat, card_edits, recipes, describing, handoff,
    written, history, queue, browsing, takein, sources, attaching, checking, uploads, versions, signing_in, accounts, tokens, comments,
)  # fmt: skip


def _refused(error: ValidationError) -> Response:
    response = jsonify({"error": {"code": "bad-request", "message": first_problem(error)}})
    response.status_code = 400
    return response


def describe_app() -> OpenAPI:
    """The application with its addresses but nothing behind them: enough to describe itself."""
    app = OpenAPI(
        __name__, info=Info(title="Umbrax", version=__version__), validation_error_status=400,
        validation_error_callback=_refused, static_folder=None, doc_ui=False,
    )  # fmt: skip
    for module in MODULES:
        app.register_api(module.api)
    return app


def make_app(settings: Settings | None = None, shared: State | None = None) -> OpenAPI:
    """The application factory; tests hand in their own settings."""
    configure_logs()
    raise_limit()
    app = describe_app()
    app.extensions["umbrax"] = shared or make_state(settings or read_settings())
    app.register_error_handler(UmbraxError, _told)
    app.register_error_handler(Cancelled, lambda _: ("", 204))
    app.register_error_handler(RecursionError, _too_deep)
    app.register_error_handler(Exception, _unexpected)
    sign_with(app, app.extensions["umbrax"].settings)
    hosts = app.extensions["umbrax"].settings.hosts
    app.before_request(lambda: refuse_foreign(hosts))
    app.before_request(lambda: state().database.begin())
    app.after_request(say_to_browsers)
    app.before_request(check_rights)
    app.before_request(_refuse_nul)
    app.add_url_rule(f"{addresses.ENTRY}<secret>", "enter", signing_in.enter)
    app.add_url_rule("/", "page", _page)
    app.add_url_rule("/<path:path>", "page_path", _page)
    return app


def _refuse_nul() -> None:
    """No name, path or text holds a NUL: neither the file system nor the database takes one."""
    told = [request.path, *request.args.keys(), *(value for values in request.args.listvalues() for value in values)]
    if any("\0" in one for one in told) or (request.is_json and NUL.search(request.get_data(cache=True))):
        raise UmbraxError("bad-request", "there is a NUL character in what was sent; take it out")


def _too_deep(_: RecursionError) -> tuple[Response, int]:
    return _told(UmbraxError("too-deep", "what was sent is nested too deeply to be read; flatten it"))


def _told(error: UmbraxError) -> tuple[Response, int]:
    response = jsonify({"error": told_of(error)})
    reading = error.code == "no-database" and request.method in ("GET", "HEAD")
    if error.again or reading:  # what only reads can be asked again whenever it failed
        response.headers["Retry-After"] = "1"
    return response, error.status


def _unexpected(error: Exception) -> Response | tuple[Response, int]:
    if is_full(error):
        return _told(disk_full("what was sent"))
    if isinstance(error, HTTPException):
        response = jsonify({"error": {"code": "http", "message": f"{request.path}: {(error.name or 'refused').lower()}"}})
        return response, error.code or 500
    structlog.get_logger().exception("request failed", path=request.path)
    message = "something went wrong in the server; the log has the details, nothing that was saved is lost"
    return jsonify({"error": {"code": "internal", "message": message}}), 500


def _page(path: str = "") -> Response:
    """The built page; every address that is not a file is the page itself, which shows what the address means."""
    if path.startswith("api/"):
        response = jsonify({"error": {"code": "http", "message": f"/{path}: not found"}})
        response.status_code = 404
        return response
    file = path if path and (PAGE / path).is_file() else "index.html"
    response = send_from_directory(PAGE, file)
    response.cache_control.max_age = 31536000 if Path(file).parts[0] == "assets" else 0
    return response
