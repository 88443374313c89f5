"""Uploads by the open tus protocol, version 1.0.0 (core and creation): pieces of any size, gone on with after a break."""

import base64
import binascii
from collections.abc import Iterator

from flask import request
from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel

from umbrax.core.errors import UmbraxError
from umbrax.media.uploading import LARGEST, Upload, Uploads

from .state import state

api = APIBlueprint("uploads", __name__, url_prefix="/api", abp_tags=[Tag(name="uploads")])
VERSION = "1.0.0"
PIECE = 1 << 20
MOST_DIGITS = 20


class UploadPath(BaseModel):
    upload: str


def _uploads() -> Uploads:
    return Uploads(state().settings.uploads)


def _answer(status: int, **headers: str) -> Response:
    named = {name.replace("_", "-"): value for name, value in headers.items()}
    return Response(status=status, headers={"Tus-Resumable": VERSION, "Cache-Control": "no-store", **named})


def _told(upload: Upload, status: int) -> Response:
    return _answer(status, Upload_Offset=str(upload.offset), Upload_Length=str(upload.length))


@api.route("/uploads", methods=["OPTIONS"])
def options() -> Response:
    return _answer(204, Tus_Version=VERSION, Tus_Extension="creation", Tus_Max_Size=str(LARGEST))


@api.post("/uploads")
def begin() -> Response:
    """Begin an upload: `Upload-Length`, and in `Upload-Metadata` its `filename`, the `batch` it belongs to, the `folder` it lay in."""
    told = _metadata(request.headers.get("Upload-Metadata", ""))
    made = _uploads().begin(told.get("filename", ""), told.get("batch", ""), _number("Upload-Length"), told.get("folder", ""))
    return _answer(201, Location=f"/api/uploads/{made.id}", Upload_Offset="0")


@api.route("/uploads/<upload>", methods=["HEAD"])
def find(upload: str) -> Response:
    return _told(_uploads().find(upload), 200)


@api.patch("/uploads/<upload>")
def append(path: UploadPath) -> Response:
    """Bytes from `Upload-Offset` on, written as they come."""
    return _told(_uploads().append(path.upload, _number("Upload-Offset"), _pieces()), 204)


def _pieces() -> Iterator[bytes]:
    while piece := request.stream.read(PIECE):
        yield piece


def _number(header: str) -> int:
    text = request.headers.get(header, "")
    if not (text.isascii() and text.isdigit() and len(text) <= MOST_DIGITS):
        raise UmbraxError("bad-upload", f"expected a number in {header}, got {text!r}")
    return int(text)


def _metadata(text: str) -> dict[str, str]:
    told = {}
    for pair in text.split(","):
        key, _, value = pair.strip().partition(" ")
        try:
            told[key] = base64.b64decode(value).decode("utf-8", "replace")
        except binascii.Error:
            continue
    return told
