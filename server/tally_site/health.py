"""Whether this process lives, and whether it can serve: for a balancer, and for whoever keeps watch. Both say nothing of what is kept."""

import hmac

from django.conf import settings
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor
from django.http import HttpRequest, HttpResponse, JsonResponse
from django_prometheus.exports import ExportToDjangoView
from jobs.presence import worker_is_there

__all__ = ["DATABASE_AWAY", "alive", "metrics", "ready"]

#: What people are told who ask while there is no database, and whose request began nothing.
DATABASE_AWAY = "The database cannot be reached; nothing was saved. Try again in a moment."

_up_to_date: set[str] = set()


def alive(request: HttpRequest) -> HttpResponse:
    """200 as long as the process answers at all; asks nobody else."""
    return HttpResponse("alive\n", content_type="text/plain")


def ready(request: HttpRequest) -> HttpResponse:
    """200 when it can serve: the database answers, and its tables are what this program knows; else 503 with what is missing.

    Whether a worker is there is told and does not count: everything but long work goes on without one.
    """
    try:
        connection.ensure_connection()
        tables = _tables_fit()
        worker = worker_is_there()
    except DatabaseError:
        return JsonResponse({"database": False}, status=503)
    return JsonResponse({"database": True, "tables": tables, "worker": worker}, status=200 if tables else 503)


def _tables_fit() -> bool:
    # Once they fit they do so for this process: migrations only add what an older program does without.
    if "yes" not in _up_to_date:
        executor = MigrationExecutor(connection)
        if executor.migration_plan(executor.loader.graph.leaf_nodes()):
            return False
        _up_to_date.add("yes")
    return True


def metrics(request: HttpRequest) -> HttpResponse:
    """Counts and times in the Prometheus text form, for who has the token ``TALLY_METRICS``; without one there is no such address."""
    given = request.META.get("HTTP_AUTHORIZATION", "").removeprefix("Bearer ")
    if not settings.METRICS_TOKEN:
        return HttpResponse(status=404)
    if not hmac.compare_digest(given.encode(), settings.METRICS_TOKEN.encode()):
        return HttpResponse(status=403)
    return ExportToDjangoView(request)
