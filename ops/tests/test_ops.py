"""Set-up, start and stop: what goes wrong is said in a plain sentence with a way out, and nothing else is touched."""

from __future__ import annotations

import errno
import os
import signal
import socket
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

from ops import application, base, cli, database, prepare, processes
from ops.base import Trouble
from ops.supervision import FIRST_PAUSE_S, LONGEST_PAUSE_S, STEADY_S, Service


class InAFolder(TestCase):
    """A folder of its own instead of var/."""

    def setUp(self) -> None:
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name)
        places = {
            "VAR": self.folder,
            "RUN": self.folder,
            "LOGS": self.folder,
            "STAMPS": self.folder,
            "ROOT": self.folder,
        }
        for module in (base, processes, database, prepare, application):
            for name, place in places.items():
                if hasattr(module, name):
                    self.use(module, name, place)
        self.use(database, "DATA", self.folder / "mariadb")

    def use(self, module: object, name: str, value: object) -> None:
        changed = patch.object(module, name, value)
        changed.start()
        self.addCleanup(changed.stop)

    def trouble(self, work: object, *words: str) -> None:
        assert callable(work)
        with self.assertRaises(Trouble) as caught:
            work()
        for word in words:
            self.assertIn(word, str(caught.exception))


class Ports(InAFolder):
    def test_a_taken_port_gives_a_sentence_and_another_one(self) -> None:
        with socket.socket() as other:
            other.bind(("127.0.0.1", 0))
            other.listen()
            port = other.getsockname()[1]
            self.trouble(lambda: application._refuse_second_start(port), f"port {port}", "taken", f"--port {port + 80}")
            self.assertNotEqual(database.free_port(port), port)

    def test_the_socket_path_stays_short_in_deep_folders(self) -> None:
        self.use(database, "RUN", self.folder / ("deep" * 30))
        self.assertLess(len(str(database.socket_path())), 107)


class DataFolder(InAFolder):
    def test_a_half_initialised_folder_is_not_used_and_not_deleted(self) -> None:
        (self.folder / "mariadb").mkdir()
        (self.folder / "mariadb" / "something").touch()
        self.trouble(database.initialise, "not whole", "rm -r mariadb", "backup")
        self.assertTrue((self.folder / "mariadb" / "something").exists())

    def test_what_an_interrupted_set_up_left_is_cleared_and_a_failure_explained(self) -> None:
        (self.folder / "mariadb.new").mkdir()
        (self.folder / "mariadb.new" / "half").touch()
        with patch.object(database, "find_program", return_value="/bin/false"):
            self.trouble(database.initialise, "could not be set up", "mariadb-install.log")
        self.assertFalse((self.folder / "mariadb.new").exists())
        self.assertFalse((self.folder / "mariadb").exists())


class Packages(InAFolder):
    def setUp(self) -> None:
        super().setUp()
        self.use(prepare, "PACKAGES", {"mariadb-server-core": lambda: False, "gcc": lambda: True})

    def test_without_the_right_to_install_it_names_the_packages_and_stops(self) -> None:
        with patch("os.geteuid", return_value=1000):
            self.trouble(
                prepare.debian_packages, "needs root: mariadb-server-core", "apt-get install mariadb-server-core"
            )

    def test_a_package_that_cannot_be_installed(self) -> None:
        with patch("os.geteuid", return_value=0), patch.object(prepare, "find_program", return_value="/bin/false"):
            self.trouble(prepare.debian_packages, "could not be installed", "by hand")

    def test_nothing_is_done_where_nothing_is_missing(self) -> None:
        self.use(prepare, "PACKAGES", {"gcc": lambda: True})
        with patch.object(prepare, "run_logged") as run:
            prepare.debian_packages()
        run.assert_not_called()


class Steps(InAFolder):
    def test_a_failing_step_shows_the_end_of_its_log(self) -> None:
        command = [sys.executable, "-c", "print('because of this'); raise SystemExit(3)"]
        self.trouble(lambda: base.run_logged("step", command, cwd=self.folder), "because of this", "step.log")

    def test_a_step_is_done_until_its_inputs_change(self) -> None:
        lock = self.folder / "lock"
        lock.write_text("one")
        base.mark_done("step", base.digest([lock]))
        self.assertTrue(base.is_done("step", base.digest([lock])))
        lock.write_text("two")
        self.assertFalse(base.is_done("step", base.digest([lock])))

    def test_secrets_are_made_once_and_private(self) -> None:
        secret = prepare.private_secret("key")
        self.assertEqual(prepare.private_secret("key"), secret)
        self.assertEqual((self.folder / "key").stat().st_mode & 0o077, 0)


class Processes(InAFolder):
    def sleeper(self, name: str) -> processes.Child:
        child = processes.Child.start(name, ["sleep", "60"])
        self.addCleanup(child.stop)
        return child

    def orphan(self, name: str) -> subprocess.Popen[bytes]:
        """A process on record whose `ember` command is gone."""
        process = self.sleeper(name).process
        record = self.folder / f"{name}.pid"
        pid, started, *_ = record.read_text().split()
        record.write_text(f"{pid} {started} 1 0")
        return process

    def test_stop_ends_what_was_left_behind_and_only_that(self) -> None:
        left, bystander = self.orphan("web"), subprocess.Popen(["sleep", "60"])
        self.addCleanup(bystander.kill)
        owned = self.sleeper("worker")
        self.assertEqual(application.stop(), 0)
        self.assertIsNotNone(left.wait(10))
        self.assertIsNone(bystander.poll())
        self.assertTrue(owned.running())

    def test_a_later_process_with_the_same_number_is_left_alone(self) -> None:
        stranger = subprocess.Popen(["sleep", "60"])
        self.addCleanup(stranger.kill)
        (self.folder / "web.pid").write_text(f"{stranger.pid} 12345 1 0")
        application.stop()
        self.assertIsNone(stranger.poll())
        self.assertFalse((self.folder / "web.pid").exists())

    def test_start_refuses_while_another_command_is_at_work(self) -> None:
        self.sleeper("mariadb")
        self.trouble(lambda: application._refuse_second_start(1), "another ember command", "wait")
        processes.write_pid("supervisor", self.sleeper("other").process.pid)
        self.trouble(lambda: application._refuse_second_start(1), "already running", "./ember stop")

    def test_a_child_that_ended_is_not_alive(self) -> None:
        child = self.sleeper("web")
        self.assertEqual(processes.read_pid("web"), child.process.pid)
        child.process.kill()
        child.process.wait()
        self.assertIsNone(processes.read_pid("web"))

    def test_garbage_in_a_pid_file_is_no_process(self) -> None:
        for text in (
            b"",
            b"x",
            b"1 2 3",
            b"a b c d",
            b"-1 0 1 0",
            b"\xff\xfe",
            b"9" * 400,
            b"1 0 " + b"9" * 30 + b" 0",
        ):
            (self.folder / "web.pid").write_bytes(text)
            self.assertIsNone(processes.read_pid("web"))
            self.assertIsNone(processes.owner_of("web"))
        self.assertEqual(application.stop(), 0)
        self.assertFalse((self.folder / "web.pid").exists())

    def test_a_group_is_ended_whole_also_when_its_leader_is_gone(self) -> None:
        child = processes.Child.start("web", ["sh", "-c", "sleep 61 & sleep 62 & wait"])
        self.assertTrue(base.wait_until(lambda: len(processes._group(child.process.pid)) == 3, 5))
        os.kill(child.process.pid, signal.SIGKILL)
        child.process.wait()
        self.assertEqual(len(processes._group(child.process.pid)), 2)
        child.stop()
        self.assertEqual(processes._group(child.process.pid), [])

    def test_orphans_of_a_dead_leader_are_ended_by_the_next_start(self) -> None:
        process = self.orphan_group("web")
        self.assertEqual(application.end_orphans(), ["web"])
        self.assertEqual(processes._group(process.pid), [])

    def orphan_group(self, name: str) -> subprocess.Popen[bytes]:
        child = processes.Child.start(name, ["sh", "-c", "sleep 61 & wait"])
        self.addCleanup(child.stop)
        self.assertTrue(base.wait_until(lambda: len(processes._group(child.process.pid)) == 2, 5))
        record = self.folder / f"{name}.pid"
        pid, started, *_ = record.read_text().split()
        record.write_text(f"{pid} {started} 1 0")
        os.kill(child.process.pid, signal.SIGKILL)
        child.process.wait()
        return child.process

    def test_of_two_starts_at_once_one_gets_through(self) -> None:
        with application._only_one():
            self.trouble(lambda: application._only_one().__enter__(), "already running", "just starting")
        with application._only_one():
            pass

    def test_another_commands_database_is_not_shared_with_tests(self) -> None:
        record = self.folder / "mariadb.pid"
        self.sleeper("mariadb")
        self.assertIsNone(database.start_database())
        other = self.sleeper("other").process.pid
        record.write_text(" ".join([*record.read_text().split()[:2], str(other), processes._started(other)]))
        self.trouble(database.start_database, "another ember command", "wait")
        processes.write_pid("supervisor", other)
        self.assertIsNone(database.start_database())


class Supervision(InAFolder):
    def setUp(self) -> None:
        super().setUp()
        self.now = 0.0
        self.begun = 0
        self.service = Service("web", self.begin, clock=lambda: self.now)
        self.addCleanup(self.service.stop)
        self.service.start()

    def begin(self) -> processes.Child:
        self.begun += 1
        return processes.Child.start("web", ["sleep", "60"])

    def kill(self) -> None:
        assert self.service.child is not None
        self.service.child.process.kill()
        self.service.child.process.wait()

    def pause(self) -> float:
        """Kills the process; how long until it is begun again."""
        self.kill()
        before, began = self.begun, self.now
        self.service.tend()
        while self.begun == before:
            self.assertLess(self.now - began, 100)
            self.now += 0.25
            self.service.tend()
        return self.now - began

    def test_what_ends_is_begun_again_with_growing_pauses(self) -> None:
        pauses = [self.pause() for _ in range(9)]
        self.assertEqual(pauses[:4], [FIRST_PAUSE_S, 2 * FIRST_PAUSE_S, 4 * FIRST_PAUSE_S, 8 * FIRST_PAUSE_S])
        self.assertEqual(pauses[-1], LONGEST_PAUSE_S)
        self.now += STEADY_S + 1
        self.assertEqual(self.pause(), FIRST_PAUSE_S)

    def test_what_can_not_be_begun_is_tried_again(self) -> None:
        self.kill()
        with patch.object(self.service, "begin", side_effect=Trouble("no room")):
            self.service.tend()
            self.now += FIRST_PAUSE_S
            self.service.tend()
        self.assertIsNone(self.service.child)
        self.service.tend()
        self.now += 2 * FIRST_PAUSE_S
        self.service.tend()
        self.assertEqual(self.begun, 2)


class Words(InAFolder):
    def test_a_full_disk_and_other_refusals_are_said_in_plain_words(self) -> None:
        full, denied = OSError(errno.ENOSPC, "No space left on device"), PermissionError(13, "Permission denied", "var")
        for error, words in ((full, ("disk is full", "untouched")), (denied, ("permission denied", "var"))):
            with patch.object(application, "start", side_effect=error), patch("sys.stderr") as said:
                self.assertEqual(cli.main(["start"]), 1)
            text = "".join(str(call.args[0]) for call in said.write.call_args_list)
            for word in words:
                self.assertIn(word, text)
