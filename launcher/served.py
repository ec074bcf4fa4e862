"""Django and the front end, ready to be served: their environment, the tables as they must be, the front end built."""

import hashlib
import os
import subprocess
from concurrent.futures import ThreadPoolExecutor

from launcher.cluster import database_url, need_cluster
from launcher.ground import PYTHON, ROOT, STATE, WEB, digest, fail, run, secret, stamp, stamped, timed
from launcher.machine import machine_has_node, need_node_packages, need_pango, need_postgres, need_python, node, postgres_bin


def django_environment(url: str) -> dict[str, str]:
    return os.environ | {
        "DATABASE_URL": url,
        "TALLY_SECRET_KEY": secret()["key"],
        "DJANGO_SETTINGS_MODULE": "tally_site.settings",
        "PYTHONPATH": f"{ROOT / 'core'}:{ROOT / 'server'}:{ROOT}",
        "PYTHONUNBUFFERED": "1",
        "TALLY_FILES": str(STATE / "files"),
        "TALLY_STATE": str(STATE),
        "TALLY_PG_BIN": os.environ.get("TALLY_PG_BIN") or str(postgres_bin() or ""),
    }


def manage(*words: str, url: str, settings: str = "tally_site.settings", **options) -> subprocess.CompletedProcess:
    environment = django_environment(url) | {"DJANGO_SETTINGS_MODULE": settings}
    return subprocess.run([str(PYTHON), str(ROOT / "server" / "manage.py"), *words], env=environment, **options)


def migrated(url: str) -> str:
    """Bring the tables up to date, if the code has changed since they were."""
    wanted = digest(*sorted(ROOT.glob("server/*/migrations"))) + url.rsplit("/", 1)[-1] + url.rsplit("@", 1)[-1].split(":")[0]
    marker = f"migrated-{hashlib.sha256(wanted.encode()).hexdigest()[:8]}"
    if os.environ.get("DATABASE_URL") or not stamped(marker, wanted):
        done = manage("migrate", "-v", "0", url=url, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
        if done.returncode:
            fail(f"The tables could not be brought up to date:\n{done.stdout[-4000:]}")
        stamp(marker, wanted)
    return url


def ready_database() -> str:
    need_postgres()
    need_pango()
    need_python("run")
    return migrated(database_url())


def prepare(level: str) -> None:
    """Everything that is installed or made once: what does not need one another goes on at the same time."""
    need_postgres()
    need_pango()
    with ThreadPoolExecutor() as side:
        jobs = [side.submit(need_node_packages)] if machine_has_node() else []
        if not os.environ.get("DATABASE_URL"):
            jobs.append(side.submit(need_cluster))
        need_python(level)
        for job in jobs:
            job.result()


def need_web() -> None:
    """The built front end, with types made from the API's own document."""
    environment = node()
    need_node_packages()
    made_of = (WEB / "src", WEB / "index.html", WEB / "vite.config.ts", WEB / "package-lock.json", ROOT / "server", ROOT / "core")
    if not (stamped("web", digest(*made_of)) and (WEB / "dist" / "index.html").exists()):
        with timed("Building the front end"):
            web_types(environment)
            # Its types stand among what it is made of: in a fresh clone they have only now come.
            wanted = digest(*made_of)
            run(["npm", "run", "build"], cwd=WEB, env=environment)
        stamp("web", wanted)


def web_types(environment: dict[str, str]) -> None:
    run(
        [PYTHON, "server/manage.py", "export_openapi_schema", "--api", "tally_site.api.api", "--output", WEB / "openapi.json"],
        cwd=ROOT,
        env=django_environment("postgres://nobody@127.0.0.1:1/none"),
    )
    run(
        [PYTHON, "server/manage.py", "declare", WEB / "src" / "lib" / "declared.ts"],
        cwd=ROOT,
        env=django_environment("postgres://nobody@127.0.0.1:1/none"),
    )
    run(["npm", "run", "types"], cwd=WEB, env=environment)
