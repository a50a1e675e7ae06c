"""Three watchers of a pair of PostgreSQL servers, with Debian's package patroni and the consensus store it brings (raft, pysyncobj) on loopback: who is
primary is decided by them, and nobody promotes by hand. For `bin/attack watched`."""

from __future__ import annotations

import contextlib
import json
import os
import signal
import subprocess
import time
import urllib.request
from pathlib import Path

import psycopg

from bendro.server.postgres import Server, programs
from tests.conftest import free_port

PASSWORD = "between-us"


class Watched:
    """Two PostgreSQL servers that patroni runs, and a third voice that only votes."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.chmod(0o777)
        self._as = Server(folder)  # runs programs as a user whom PostgreSQL accepts
        self.ports = [free_port(), free_port()]
        self._raft, self._rest = [free_port() for _ in range(3)], [free_port(), free_port()]
        self.processes: list[subprocess.Popen[bytes]] = []
        for n in range(2):
            self._write(n)
        voice = folder / "voice.yml"
        voice.write_text(json.dumps({"raft": {"data_dir": str(self._made("raft-2")), "self_addr": f"127.0.0.1:{self._raft[2]}", "partner_addrs": self._partners(2)}}))
        self._begin("patroni_raft_controller", voice)
        for n in range(2):
            self._begin("patroni", folder / f"node-{n}.yml")
        self.until(lambda: len(self.roles()) == 2 and "leader" in self.roles().values() and "sync_standby" in self.roles().values(), 120)
        with psycopg.connect(self.address.replace("dbname=bendro", "dbname=postgres"), autocommit=True) as rows:
            rows.execute("create database bendro template template0 encoding 'UTF8' lc_collate 'C.UTF-8' lc_ctype 'C.UTF-8'")

    def _partners(self, n: int) -> list[str]:
        return [f"127.0.0.1:{p}" for k, p in enumerate(self._raft) if k != n]

    def _made(self, name: str) -> Path:
        made = self.folder / name
        made.mkdir(exist_ok=True)
        made.chmod(0o777)
        return made

    def _write(self, n: int) -> None:
        users = {"superuser": {"username": "bendro", "password": PASSWORD}, "replication": {"username": "follower", "password": PASSWORD}}
        told = {
            "scope": "bendro", "name": f"node{n}",
            "restapi": {"listen": f"127.0.0.1:{self._rest[n]}", "connect_address": f"127.0.0.1:{self._rest[n]}"},
            "raft": {"data_dir": str(self._made(f"raft-{n}")), "self_addr": f"127.0.0.1:{self._raft[n]}", "partner_addrs": self._partners(n)},
            "bootstrap": {
                "dcs": {"ttl": 20, "loop_wait": 1, "retry_timeout": 3, "synchronous_mode": True, "postgresql": {"parameters": {"max_connections": 140}}},
                "initdb": [{"encoding": "UTF8"}, {"locale": "C.UTF-8"}, {"auth": "scram-sha-256"}],
                "pg_hba": ["host replication follower 127.0.0.1/32 scram-sha-256", "host all all 127.0.0.1/32 scram-sha-256"],
            },
            "postgresql": {
                "listen": f"127.0.0.1:{self.ports[n]}", "connect_address": f"127.0.0.1:{self.ports[n]}", "data_dir": str(self.folder / f"data-{n}"), "bin_dir": str(programs()), "pgpass": str(self._made(f"socket-{n}") / "pgpass"),
                "authentication": users, "parameters": {"unix_socket_directories": str(self._made(f"socket-{n}"))},
            },
        }  # fmt: skip
        (self.folder / f"node-{n}.yml").write_text(json.dumps(told))  # JSON is YAML

    def _begin(self, program: str, settings: Path) -> None:
        with (self.folder / f"{settings.stem}.log").open("ab") as log:
            command = self._as.as_server(f"/usr/bin/{program}", str(settings))
            self.processes.append(subprocess.Popen(command, stdout=log, stderr=log, stdin=subprocess.DEVNULL, start_new_session=True, cwd="/", env={**os.environ, "PYTHONPATH": "", "PATH": "/usr/sbin:/usr/bin:/sbin:/bin"}))

    @property
    def address(self) -> str:
        return f"host=127.0.0.1,127.0.0.1 port={self.ports[0]},{self.ports[1]} user=bendro password={PASSWORD} dbname=bendro target_session_attrs=read-write connect_timeout=2"

    def roles(self) -> dict[str, str]:
        """Of each node, as those that can be asked tell it."""
        for port in self._rest:
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{port}/cluster", timeout=2) as answer:
                    return {m["name"]: m["role"] for m in json.load(answer)["members"] if m.get("state") in ("running", "streaming")}
            except (OSError, ValueError, KeyError):
                continue
        return {}

    def until(self, holds: object, seconds: float) -> None:
        assert callable(holds)
        end = time.monotonic() + seconds
        while not holds():
            assert time.monotonic() < end, (self.folder / "node-0.log").read_text()[-1500:]
            time.sleep(0.2)

    def kill_the_leader(self) -> float:
        """The machine of the primary dies: its watcher and its server at once; seconds until the other takes writes."""
        leader = int(next(name for name, role in self.roles().items() if role == "leader").removeprefix("node"))
        began = time.monotonic()
        postmaster = int((self.folder / f"data-{leader}" / "postmaster.pid").read_text().split()[0])
        os.killpg(self.processes[1 + leader].pid, signal.SIGKILL)
        for one in [postmaster, *(int(p) for p in subprocess.run(["pgrep", "-P", str(postmaster)], capture_output=True, text=True, check=False).stdout.split())]:
            with contextlib.suppress(ProcessLookupError):  # a server process that has just ended by itself
                os.kill(one, signal.SIGKILL)
        self.until(self._takes_writes, 90)
        return time.monotonic() - began

    def _takes_writes(self) -> bool:
        try:
            psycopg.connect(self.address, connect_timeout=2).close()
        except psycopg.OperationalError:
            return False
        return True

    def stop(self) -> None:
        for process in reversed(self.processes):
            if process.poll() is None:
                os.killpg(process.pid, signal.SIGTERM)
        for process in self.processes:
            try:
                process.wait(30)
            except subprocess.TimeoutExpired:
                os.killpg(process.pid, signal.SIGKILL)
