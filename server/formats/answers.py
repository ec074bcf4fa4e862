"""A file as the answer to a request."""

from django.http import HttpResponse

__all__ = ["CSV", "PDF", "WORKBOOK", "file_answer"]

WORKBOOK = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
CSV, PDF = "text/csv; charset=utf-8", "application/pdf"


def file_answer(body: bytes, kind: str, title: str, ending: str) -> HttpResponse:
    """A download named after a title, in characters that every system takes."""
    name = "".join(c if c.isascii() and (c.isalnum() or c in "-_.") else "_" for c in title[:100])
    response = HttpResponse(body, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}.{ending}"'
    return response
