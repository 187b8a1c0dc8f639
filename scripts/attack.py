"""What scripts/attack.sh runs: each part starts a program of its own, attacks it, and prints what was counted."""

import http.client
import json
import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
import uuid
from collections import Counter
from contextlib import contextmanager
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
PROGRAM = ROOT / "target/release/ticksage"


class Yard:
    """A running program on a folder of its own, with the demo."""

    def __init__(self, data):
        self.data = Path(data)
        self.process = None
        self.port = 0

    def start(self):
        self.process = subprocess.Popen(
            [PROGRAM, "serve", "--port", str(self.port), "--web", "/nowhere", "--data", self.data, "--demo", ROOT / "demo"],
            stdout=subprocess.PIPE,
            stderr=open(self.data.parent / "log", "a"),
            text=True,
        )
        line = self.process.stdout.readline()
        self.port = int(line.split("://")[1].split()[0].split(":")[1])
        return self

    def stop(self, how=signal.SIGINT):
        self.process.send_signal(how)
        self.process.wait()

    def ask(self, method, path, body=None, timeout=60):
        """Status and parsed answer; status 0 where there was none."""
        try:
            connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=timeout)
            headers = {"content-type": "application/json"} if body is not None else {}
            connection.request(method, path, json.dumps(body) if body is not None else None, headers)
            answer = connection.getresponse()
            text = answer.read()
            return answer.status, json.loads(text) if text else None
        except (OSError, http.client.HTTPException, json.JSONDecodeError):
            return 0, None

    def database(self):
        """Process ids of the database server and of those it started."""
        first = (self.data / "data/postmaster.pid").read_text().split()[0]
        others = subprocess.run(["pgrep", "-P", first], capture_output=True, text=True).stdout.split()
        return [int(first), *map(int, others)]

    def until_well(self, seconds=90):
        end = time.time() + seconds
        while time.time() < end:
            if self.ask("GET", "/api/health", timeout=5)[0] == 200:
                return
            time.sleep(0.3)
        raise SystemExit("!! it does not answer again")


@contextmanager
def own_yard(within=None):
    """A running program on a folder of its own, which goes with it."""
    with tempfile.TemporaryDirectory(prefix="ticksage-attack-", dir=within) as folder:
        # The database server's own user must get in.
        os.chmod(folder, 0o755)
        yard = Yard(Path(folder) / "yard")
        yard.data.mkdir()
        yard.start()
        try:
            yield yard
        finally:
            yard.stop()


def finding(view, name, note):
    check = next(c for c in view["checks"] if not c["check"].get("measure"))
    return {
        "id": name,
        "finding": {
            "family": check["family"],
            "check": check["check"]["id"],
            "result": {"kind": "skipped"},
            "note": note,
            "at": "2026-01-01T10:00:00Z",
        },
    }


class Burst:
    """Writers that note which findings were acknowledged."""

    def __init__(self, yard, ids, writers):
        self.yard, self.ids, self.acknowledged, self.statuses = yard, ids, [], Counter()
        self.going = True
        views = {i: yard.ask("GET", f"/api/candidates/{i}")[1] for i in ids}
        self.threads = [threading.Thread(target=self.write, args=(n, views)) for n in range(writers)]
        for t in self.threads:
            t.start()

    def write(self, n, views):
        count = 0
        while self.going:
            candidate = self.ids[(n + count) % len(self.ids)]
            name = str(uuid.uuid4())
            status, _ = self.yard.ask("POST", f"/api/candidates/{candidate}/findings", finding(views[candidate], name, f"{n}/{count}"))
            self.statuses[status] += 1
            if status == 201:
                self.acknowledged.append((candidate, name))
            elif status == 0:
                time.sleep(0.2)
            count += 1

    def end(self):
        self.going = False
        for t in self.threads:
            t.join()


def lost(yard, acknowledged):
    """Acknowledged findings that are not stored."""
    stored = {i: set(yard.ask("GET", f"/api/candidates/{i}/document")[1]["finding_ids"]) for i in {c for c, _ in acknowledged}}
    return [name for candidate, name in acknowledged if name not in stored[candidate]]


def ids(yard):
    return [e["id"] for e in yard.ask("GET", "/api/candidates")[1]]


def fault(name, yard, harm, mend):
    burst = Burst(yard, ids(yard), 4)
    time.sleep(4)
    harm()
    time.sleep(5)
    mend()
    yard.until_well()
    time.sleep(3)
    burst.end()
    gone = lost(yard, burst.acknowledged)
    print(f"{name}: {len(burst.acknowledged)} acknowledged, {len(gone)} lost; answers {dict(burst.statuses)}")
    if gone:
        raise SystemExit("!! acknowledged findings are lost")


def faults():
    with own_yard() as yard:
        fault("kill -9 of the program", yard, lambda: yard.stop(signal.SIGKILL), yard.start)
        fault("SIGTERM of the program", yard, lambda: yard.stop(signal.SIGTERM), yard.start)
        fault("kill -9 of the database", yard, lambda: os.kill(yard.database()[0], signal.SIGKILL), lambda: None)

        def freeze(how):
            for pid in yard.database():
                try:
                    os.kill(pid, how)
                except ProcessLookupError:
                    pass

        fault("frozen database", yard, lambda: freeze(signal.SIGSTOP), lambda: freeze(signal.SIGCONT))
    if os.geteuid() == 0:
        full_disk()
    else:
        print("full disk: not run (it needs root, for a small tmpfs)")


def full_disk():
    with tempfile.TemporaryDirectory(prefix="ticksage-attack-") as folder:
        os.chmod(folder, 0o755)
        disk = Path(folder) / "disk"
        disk.mkdir()
        subprocess.run(["mount", "-t", "tmpfs", "-o", "size=160m", "tmpfs", disk], check=True)
        try:
            with own_yard(disk) as yard:
                first = ids(yard)[0]
                filler = disk / "filler"
                with open(filler, "wb") as out:
                    try:
                        while True:
                            out.write(bytes(65536))
                            out.flush()
                    except OSError:
                        pass
                burst = Burst(yard, [first], 2)
                end = time.time() + 60
                while burst.statuses[507] == 0 and burst.statuses[503] == 0 and time.time() < end:
                    time.sleep(0.2)
                time.sleep(2)
                filler.unlink()
                yard.until_well()
                time.sleep(5)
                burst.end()
                gone = lost(yard, burst.acknowledged)
                print(f"full disk: {len(burst.acknowledged)} acknowledged, {len(gone)} lost; answers {dict(burst.statuses)}")
                if gone:
                    raise SystemExit("!! acknowledged findings are lost")
        finally:
            subprocess.run(["umount", "-l", disk], check=False)


def load(seconds=60):
    with own_yard() as yard:
        all_ids, reads, times = ids(yard), Counter(), []
        burst = Burst(yard, all_ids, 10)
        going = True

        def read(n):
            paths = ["/api/candidates", "/api/health", *(f"/api/candidates/{i}" for i in all_ids)]
            count = 0
            while going:
                begun = time.time()
                status, _ = yard.ask("GET", paths[(n + count) % len(paths)], timeout=120)
                times.append(time.time() - begun)
                reads[status] += 1
                count += 1

        readers = [threading.Thread(target=read, args=(n,)) for n in range(50)]
        for t in readers:
            t.start()
        time.sleep(seconds)
        going = False
        for t in readers:
            t.join()
        burst.end()
        gone = lost(yard, burst.acknowledged)
        times.sort()
        middle, late = times[len(times) // 2], times[int(len(times) * 0.95)]
        print(
            f"50 readers and 10 writers for {seconds} s: reads {dict(reads)}, median {middle:.2f} s, 95th {late:.2f} s; "
            f"writes {dict(burst.statuses)}, {len(burst.acknowledged)} acknowledged, {len(gone)} lost"
        )
        bad = [s for s in [*reads, *burst.statuses] if s == 0 or s >= 500]
        if gone or bad:
            raise SystemExit(f"!! lost or failed: {bad}")


def requests():
    with own_yard() as yard:
        # What is asked concerns a candidate that is there.
        folder = yard.data.parent
        (folder / "schemathesis.toml").write_text(f'[parameters]\n"path.id" = "{ids(yard)[0]}"\n')
        command = [
            ROOT / "target/attack/bin/schemathesis", "run", f"http://127.0.0.1:{yard.port}/api/openapi.json",
            "--max-examples", "40", "--seed", "1", "--request-timeout", "30", "--continue-on-failure",
            "--checks", "not_a_server_error", "--no-color",
        ]  # fmt: skip
        ended = subprocess.run(command, capture_output=True, text=True, cwd=folder)
        kept = [line for line in ended.stdout.splitlines() if line.strip()]
        print("\n".join(kept[-40:]))
        alive = yard.ask("GET", "/api/health")[0]
        entries = yard.ask("GET", "/api/candidates")
        print(f"afterwards: health {alive}, yard {entries[0]} with {len(entries[1] or [])} candidates")
        if alive != 200 or ended.returncode not in (0, 1):
            raise SystemExit("!! it does not answer any more")


if __name__ == "__main__":
    {"requests": requests, "faults": faults, "load": load}[sys.argv[1]]()
