"""Addresses: the API under /api, everything else is a screen of the front end."""

from accounts.coming_back import come_back
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_safe

from tally_site.api import api
from tally_site.health import alive, metrics, ready


@require_safe
@ensure_csrf_cookie
def screen(request: HttpRequest) -> HttpResponse:
    return render(request, "index.html")


urlpatterns = [
    path("alive", alive),
    path("ready", ready),
    path("metrics", metrics),
    path("sign-on/back", come_back),
    path("api/", api.urls),
    re_path(r"^(?!api/|assets/|static/).*$", screen),
]
