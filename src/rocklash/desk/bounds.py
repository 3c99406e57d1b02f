"""What holds for every request: a name of its own in log and on the error page, bounds of what may come, and what no cache may keep."""

import contextvars
import json
import logging
import re
import uuid
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from rocklash.ui.refusals import gone_wrong, too_large

_name: contextvars.ContextVar[str] = contextvars.ContextVar("request", default="")
Answer = Callable[[HttpRequest], HttpResponse]
_SECRETS = re.compile(r"(/join/|/calendar/|/reset/)[^/\s\"']+")
_LONGEST_ADDRESS = 6000


def without_secrets(words: str) -> str:
    """A line for the log with the secret of an address taken out."""
    return _SECRETS.sub(r"\1…", words)


class RequestName(logging.Filter):
    """Lay the request's name beside every line."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Every line passes."""
        record.request_name = _name.get()
        return True


class Line(logging.Formatter):
    """One line of JSON: when, how grave, by whom, in which request, what; with its traceback, but never what was typed."""

    def format(self, record: logging.LogRecord) -> str:
        """The line."""
        told = {
            "at": self.formatTime(record, "%Y-%m-%dT%H:%M:%S%z"), "level": record.levelname.lower(), "from": record.name,
            "request": getattr(record, "request_name", ""), "words": without_secrets(record.getMessage())[:2000],
        }  # fmt: skip
        if record.exc_info:
            told["trace"] = without_secrets(self.formatException(record.exc_info))[-6000:]
        return json.dumps(told, ensure_ascii=False)


def caller(request: HttpRequest) -> str:
    """Whose request it is by address: what the last of one's own proxies was told, or who connects."""
    told = [each.strip() for each in request.META.get("HTTP_X_FORWARDED_FOR", "").split(",") if each.strip()]
    if settings.PROXIES and len(told) >= settings.PROXIES:
        return str(told[-settings.PROXIES])[:60]
    return str(request.META.get("REMOTE_ADDR", ""))[:60]


def named(answer: Answer) -> Answer:
    """Give each request a name: in every line of the log, on the error page, and in the answer's head."""

    def middleware(request: HttpRequest) -> HttpResponse:
        name = uuid.uuid4().hex[:12]
        token = _name.set(name)
        request.name = name  # type: ignore[attr-defined]
        try:
            response = answer(request)
            response["X-Request-ID"] = name
            return response
        finally:
            _name.reset(token)

    return middleware


def _private(request: HttpRequest, response: HttpResponse) -> None:
    user = getattr(request, "user", None)
    if user is not None and user.is_authenticated and not response.has_header("Cache-Control"):
        response["Cache-Control"] = "private, no-store"


def bounded(answer: Answer) -> Answer:
    """Refuse what no page is asked for; keep pages of a person out of every cache."""

    def middleware(request: HttpRequest) -> HttpResponse:
        address = request.META.get("PATH_INFO", "") + request.META.get("QUERY_STRING", "")
        if "\x00" in address or "%00" in address or len(address) > _LONGEST_ADDRESS:
            return gone_wrong(request, 400)
        try:
            length = int(request.META.get("CONTENT_LENGTH") or 0)
        except ValueError:
            length = 0
        if length > settings.LARGEST_REQUEST:
            return too_large(request)
        response = answer(request)
        _private(request, response)
        return response

    return middleware
