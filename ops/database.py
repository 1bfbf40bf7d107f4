"""The application's own MariaDB: own data folder, socket and port, bound to 127.0.0.1.

A MariaDB that is already on the machine is never read, asked or changed: `--no-defaults` keeps its
configuration out, and everything lies under `var/`.
"""

from __future__ import annotations

import contextlib
import getpass
import hashlib
import json
import os
import shutil
import socket
import subprocess
import tempfile
from collections.abc import Iterator
from pathlib import Path

from .base import LOGS, ROOT, RUN, VAR, Trouble, find_program, say, wait_until
from .prepare import private_secret
from .processes import Child, owner_of, read_pid

DATA = VAR / "mariadb"
SETTINGS = VAR / "database.json"
FIRST_PORT = 33306
NAME, USER = "ember", "ember"
LONGEST_SOCKET = 100  # the kernel allows 107 bytes


def socket_path() -> Path:
    path = RUN / "mariadb.sock"
    if len(str(path)) <= LONGEST_SOCKET:
        return path
    mark = hashlib.sha256(str(ROOT).encode()).hexdigest()[:12]
    return Path(tempfile.gettempdir()) / f"frugal-ember-{mark}.sock"


def free_port(first: int) -> int:
    """The first free port on the loopback address from `first` on."""
    for port in range(first, first + 200):
        with contextlib.closing(socket.socket()) as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return port
    raise Trouble(f"no free port for the database between {first} and {first + 200} on 127.0.0.1.")


def _as_root() -> list[str]:
    return ["--user=root"] if os.geteuid() == 0 else []


def initialise() -> None:
    """Makes the data folder beside its final place and moves it there when it is whole."""
    if DATA.exists():
        if not (DATA / "mysql").is_dir() or not (DATA / "ibdata1").exists():
            raise Trouble(
                f"the database folder {DATA.relative_to(ROOT)} is there but not whole. If nothing in it is needed, "
                f"delete it ('rm -r {DATA.relative_to(ROOT)}') and start again; otherwise put it back from a backup."
            )
        return
    say("setting up the database folder var/mariadb")
    fresh = VAR / "mariadb.new"
    if fresh.exists():
        shutil.rmtree(fresh)  # left by a set-up that was interrupted; never held anything
    program = find_program("mariadb-install-db")
    assert program is not None
    log = LOGS / "mariadb-install.log"
    with log.open("wb") as stream:
        code = subprocess.run(
            [program, "--no-defaults", f"--datadir={fresh}", "--auth-root-authentication-method=socket",
             f"--auth-root-socket-user={getpass.getuser()}", "--skip-test-db", "--skip-name-resolve", *_as_root()],
            stdout=stream, stderr=subprocess.STDOUT, stdin=subprocess.DEVNULL, check=False,
        ).returncode  # fmt: skip
    if code or not (fresh / "mysql").is_dir():
        shutil.rmtree(fresh, ignore_errors=True)
        raise Trouble(f"the database folder could not be set up; see {log.relative_to(ROOT)}. Is the disk full?")
    fresh.rename(DATA)


def start_database() -> Child | None:
    """Starts the server unless it already runs; returns it if this call started it."""
    if read_pid("mariadb"):
        owner = owner_of("mariadb")
        if owner not in (None, os.getpid(), read_pid("supervisor")):
            raise Trouble(f"another ember command (process {owner}) is at work here; wait until it is done.")
        return None
    return begin_database()


def begin_database() -> Child:
    """Starts the server."""
    initialise()
    port, place = free_port(FIRST_PORT), socket_path()
    password = private_secret("database-password")
    grants = RUN / "grants.sql"
    grants.touch(mode=0o600)
    accounts = [f"'{USER}'@'{host}'" for host in ("localhost", "127.0.0.1")]
    statements = [f"CREATE DATABASE IF NOT EXISTS {NAME} CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci;"]
    for account in accounts:
        statements += [
            f"CREATE USER IF NOT EXISTS {account};",
            f"ALTER USER {account} IDENTIFIED BY '{password}';",
            f"GRANT ALL ON {NAME}.* TO {account};",
            rf"GRANT ALL ON `test\_{NAME}%`.* TO {account};",  # tests that run side by side have a copy each
        ]
    grants.write_text("\n".join(statements) + "\n")
    program = find_program("mariadbd")
    assert program is not None
    child = Child.start(
        "mariadb",
        [program, "--no-defaults", f"--datadir={DATA}", f"--socket={place}", f"--port={port}",
         "--bind-address=127.0.0.1", f"--pid-file={RUN / 'mariadbd.pid'}", f"--init-file={grants}",
         "--skip-name-resolve", "--character-set-server=utf8mb4", "--max-allowed-packet=32M",
         "--innodb-buffer-pool-size=128M", "--skip-log-bin", *_as_root()],
    )  # fmt: skip
    ready = wait_until(lambda: not child.running() or _answers(place), 60)
    if not ready or not child.running():
        child.stop()
        raise Trouble(
            f"the database did not start; the reason is at the end of {(LOGS / 'mariadb.log').relative_to(ROOT)}. "
            "If another program holds var/mariadb, stop it; if the folder is damaged, put it back from a backup."
        )
    SETTINGS.touch(mode=0o600)
    SETTINGS.write_text(
        json.dumps({"name": NAME, "user": USER, "password": password, "socket": str(place), "port": port})
    )
    return child


def _answers(place: Path) -> bool:
    """True once the server accepts connections on its socket and greets."""
    try:
        with contextlib.closing(socket.socket(socket.AF_UNIX)) as probe:
            probe.settimeout(1)
            probe.connect(str(place))
            return len(probe.recv(5)) == 5
    except OSError:
        return False


@contextlib.contextmanager
def running_database() -> Iterator[None]:
    """The database for the length of a block; left alone if it ran before."""
    child = start_database()
    try:
        yield
    finally:
        if child:
            child.stop()
