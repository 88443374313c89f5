"""A server on another machine: its API by HTTP, with waits where it is busy and one clear line where it does not answer."""

import contextlib
import json
from collections.abc import Iterator
from typing import Any
from urllib.parse import urlsplit

import requests
from requests.adapters import HTTPAdapter
from urllib3.util import Retry

from umbrax.core.errors import UmbraxError

CONNECT_SECONDS, READ_SECONDS = 10, 120
# a 503 says that nothing was done, and when to ask again: any request may be sent once more
BUSY = Retry(total=8, connect=0, read=0, other=0, status=8, status_forcelist=[503], allowed_methods=None, backoff_factor=0.5,
             respect_retry_after_header=True, raise_on_status=False)  # fmt: skip


class Server:
    """`address` as a browser has it, without a path; `token` of whoever asks."""

    def __init__(self, address: str, token: str):
        self.address = _checked(address)
        if not token:
            raise UmbraxError(
                "no-token", "a server lets nobody in without a token; make one in the page (Password and tokens), and put it into UMBRAX_TOKEN"
            )
        self._session = requests.Session()
        self._session.trust_env = False  # neither a proxy nor a password of .netrc stands between
        self.headers = {"Authorization": f"Bearer {token}"}
        self._session.headers.update(self.headers)
        for scheme in ("http://", "https://"):
            self._session.mount(scheme, HTTPAdapter(max_retries=BUSY))

    def get(self, path: str, /, **query: Any) -> Any:
        """What the server says at an address of its API, which begins behind `/api`."""
        with self.asked("GET", path, params=query) as answer:
            return answer.json()

    def post(self, path: str, body: dict[str, Any] | None = None) -> Any:
        """What it says to an order."""
        with self.asked("POST", path, json=body or {}) as answer:
            return answer.json()

    @contextlib.contextmanager
    def asked(self, method: str, path: str, **more: Any) -> Iterator[requests.Response]:
        """An answer that may be read in pieces. Raises UmbraxError for all that is not an answer, also while it is read."""
        with self._told():
            answer = self._session.request(
                method, f"{self.address}/api{path}", timeout=(CONNECT_SECONDS, READ_SECONDS), allow_redirects=False, stream=True, **more
            )
            with answer:
                if not answer.ok or answer.is_redirect:
                    raise self._refusal(answer)
                yield answer

    @contextlib.contextmanager
    def _told(self) -> Iterator[None]:
        try:
            yield
        except requests.exceptions.InvalidHeader:
            raise UmbraxError("bad-token", "the token holds characters that no token has; copy it again") from None
        except requests.exceptions.JSONDecodeError:
            raise UmbraxError("no-server", f"what answers at {self.address} is not Umbrax; check the address") from None
        except requests.exceptions.SSLError as error:
            raise UmbraxError("no-server", f"{self.address} is not trusted ({_reason(error)}); check its certificate") from None
        except requests.exceptions.RequestException as error:
            raise UmbraxError("no-server", f"no answer from {self.address} ({_reason(error)}); check the address, and that it runs") from None

    def _refusal(self, answer: requests.Response) -> UmbraxError:
        """An answer that is none: as the server says it, where it is ours."""
        if answer.status_code == 401:
            return UmbraxError("no-right", "the server does not know this token, or it was ended; make another in the page")
        strange = UmbraxError("no-server", f"{self.address} answers {answer.status_code}, which Umbrax does not; check the address")
        return error_in(answer.content) or strange


def error_in(content: str | bytes | None) -> UmbraxError | None:
    """The error that an answer tells of; None where it is not one of ours."""
    try:
        told = json.loads(content or "")["error"]
        return UmbraxError(str(told["code"]), str(told["message"]))
    except (ValueError, KeyError, TypeError):
        return None


def _checked(address: str) -> str:
    parts = urlsplit(address.strip())
    if parts.scheme not in ("http", "https") or not parts.hostname or parts.path.strip("/") or parts.query or parts.username:
        raise UmbraxError("bad-server", f"cannot read the address {address!r}; write it as http://name:port, without a path")
    return f"{parts.scheme}://{parts.netloc}"


def _reason(error: Exception) -> str:
    """The innermost words of an error of a connection."""
    inner = error.args[0] if error.args else error
    return str(getattr(inner, "reason", inner)).rsplit(": ", 1)[-1].strip("()' ")[:120] or type(error).__name__
