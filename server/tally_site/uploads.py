"""Uploads that are too large are refused by their stated length, before anything is kept of them."""

import json
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from files.store import too_large

__all__ = ["UploadLimit"]

#: A browser that is cut off while it sends shows its own error, not ours; so this much is read and dropped first.
_DRAINED = 200 * 1024 * 1024
_FORM = 64 * 1024


class UploadLimit:
    """Middleware: 413 with a clear word for a body that is larger than any file may be."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            size = int(request.META.get("CONTENT_LENGTH") or 0)
        except ValueError:
            size = 0
        if size <= settings.UPLOAD_LIMIT + _FORM:
            return self.get_response(request)
        left = min(size, _DRAINED)
        while left > 0 and (chunk := request.read(min(left, 1024 * 1024))):
            left -= len(chunk)
        body = {"message": too_large(size), "problems": []}
        return HttpResponse(json.dumps(body), status=413, content_type="application/json")
