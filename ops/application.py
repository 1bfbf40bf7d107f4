"""start and stop: the database, the web server and the task worker under one supervisor."""

from __future__ import annotations

import contextlib
import fcntl
import http.client
import os
import signal
import socket
import subprocess
import threading
from collections.abc import Iterator

from .base import LOGS, PYTHON, RUN, SERVER, Trouble, django_env, folders, run_logged, say, wait_until
from .database import begin_database, start_database
from .prepare import prepare, private_secret
from .processes import Child, forget_pid, kill_child, owner_of, read_pid, write_pid
from .supervision import Service

WORKERS = ("worker", "worker-2")
CHILDREN = ("web", *WORKERS, "mariadb")  # in the order in which they are ended
WEB_PROCESSES = 4  # more than cores: the system shares them out fairly, threads of one do not
CONNECTIONS = 1000  # of each process: those that wait cost next to nothing


def start(port: int) -> int:
    """Starts everything and stays until Ctrl-C or `stop`."""
    folders()
    with _only_one():
        _refuse_second_start(port)
        write_pid("supervisor", os.getpid())
        try:
            prepare()
            stopping = threading.Event()
            for sig in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
                signal.signal(sig, lambda *_: stopping.set())
            with running_application(port) as services:
                say(f"ready: http://127.0.0.1:{port}  (Ctrl-C or './ember stop' ends it)")
                while not stopping.wait(0.5):
                    for service in services:
                        service.tend()
                say("stopping")
        finally:
            forget_pid("supervisor")
    say("stopped")
    return 0


@contextlib.contextmanager
def _only_one() -> Iterator[None]:
    """Of several starts at the same moment only one gets through; the system lets go when it ends, however it ends."""
    with (RUN / "start.lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise Trouble(
                "it is already running, or just starting, from this folder. './ember stop' ends it."
            ) from None
        yield


@contextlib.contextmanager
def running_application(port: int, database_name: str | None = None) -> Iterator[list[Service]]:
    """The whole application for the length of a block, with the demo data loaded, on its own database or another."""
    private_secret("secret-key")
    services: list[Service] = []
    try:
        say("starting the database")
        database = start_database()
        if database:
            services.append(Service("mariadb", begin_database, database))
        env = django_env({"EMBER_PORT": str(port)} | ({"EMBER_DATABASE": database_name} if database_name else {}))
        say("bringing the tables and the demo data up to date")
        run_logged("migrate", [str(PYTHON), str(SERVER / "manage.py"), "migrate", "--no-input"], env=env)
        run_logged("demo", [str(PYTHON), str(SERVER / "manage.py"), "load_demo"], env=env)
        say("starting the web server and the task worker")
        worker = [str(PYTHON), str(SERVER / "manage.py"), "db_worker", "--interval", "2", "--no-reload"]
        web = Service("web", lambda: Child.start("web", _gunicorn(port), env | {"EMBER_SERVES": "1"}))
        workers = [Service(name, lambda name=name: Child.start(name, worker, env)) for name in WORKERS]  # type: ignore[misc]
        for service in (*workers, web):
            services.append(service)
            service.start()
        running = web.child
        assert running is not None
        if not wait_until(lambda: not running.running() or answers(port), 60) or not running.running():
            tail = "\n".join((LOGS / "web.log").read_text("utf-8", "replace").splitlines()[-8:])
            raise Trouble(f"the web server did not start. The end of var/log/web.log:\n{tail}")
        yield services
    finally:
        for service in reversed(services):  # the database last
            service.stop()


def _gunicorn(port: int) -> list[str]:
    return [
        str(PYTHON), "-m", "gunicorn", "config.asgi:application", "--worker-class", "asgi", "--bind", f"127.0.0.1:{port}",
        "--workers", str(WEB_PROCESSES), "--worker-connections", str(CONNECTIONS), "--timeout", "60", "--keep-alive", "15", "--chdir", str(SERVER),
        "--max-requests", "20000", "--preload", "--no-control-socket", "--config", str(SERVER / "config" / "gunicorn.py"),
    ]  # fmt: skip


def answers(port: int) -> bool:
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=2)
    try:
        connection.request("GET", "/api/session")
        return connection.getresponse().status == 200
    except OSError:
        return False
    finally:
        connection.close()


def _refuse_second_start(port: int) -> None:
    if read_pid("supervisor"):
        raise Trouble("it is already running from this folder. './ember stop' ends it.")
    if read_pid("mariadb") and owner_of("mariadb"):
        raise Trouble(f"another ember command (process {owner_of('mariadb')}) is at work here; wait until it is done.")
    for name in end_orphans():
        say(f"ended a {name} process that an earlier start had left behind")
    with contextlib.closing(socket.socket()) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            raise Trouble(
                f"port {port} on 127.0.0.1 is taken by another program. End that, or choose another port: "
                f"'./ember start --port {port + 80}'."
            ) from None


def end_orphans() -> list[str]:
    """Ends the processes on record whose `ember` command is gone. Returns their names."""
    return [name for name in CHILDREN if owner_of(name) is None and kill_child(name)]


def stop() -> int:
    """Ends what `start` began, and nothing else."""
    pid = read_pid("supervisor")
    if pid:
        os.kill(pid, signal.SIGTERM)
        if not wait_until(lambda: read_pid("supervisor") is None, 60):
            raise Trouble(f"the process {pid} does not end; see var/log/.")
        say("stopped")
        return 0
    forget_pid("supervisor")
    ended = end_orphans()
    say(f"ended what was left: {', '.join(ended)}" if ended else "nothing was running")
    return 0


def core_command(*arguments: str) -> int:
    """Runs the core alone, without a database."""
    command = [str(PYTHON), "-m", "ember_core", *arguments]
    return subprocess.run(command, env=django_env(), check=False).returncode
