"""What the benchmarks share that watch Zester as it is really served: a folder, a server, the machine's speed."""

from __future__ import annotations

import os
import signal
import socket
import statistics
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

ROOT = Path(__file__).parents[1]
# Seconds of the yardstick's sum when the machine is left alone; other hours it took more than twice that.
YARDSTICK = 0.108


def environment(folder: str, **more: str) -> dict[str, str]:
    """The variables of a demo in a folder of its own."""
    variables = os.environ | {"ZESTER_DEMO": "1", "ZESTER_DATA": folder, "PYTHONPATH": str(ROOT)}
    variables.pop("ZESTER_DEBUG", None)
    return variables | {"DJANGO_SETTINGS_MODULE": "zester.site.settings"} | more


def manage(variables: dict[str, str], *command: str) -> None:
    """Run one of the commands to its end."""
    subprocess.run(
        [sys.executable, "-m", "django", *command], check=True, stdout=subprocess.DEVNULL, env=variables, cwd=ROOT
    )


@contextmanager
def served(variables: dict[str, str]) -> Iterator[tuple[int, subprocess.Popen]]:
    """The demo, served; its port and its process."""
    port = free_port()
    command = [sys.executable, "-m", "django", "serve_demo", "--port", str(port)]
    server = subprocess.Popen(command, env=variables, cwd=ROOT, stdout=subprocess.DEVNULL)
    try:
        wait_for(port)
        yield port, server
    finally:
        server.send_signal(signal.SIGTERM)
        server.wait(timeout=30)


def free_port() -> int:
    """A port nobody has."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def wait_for(port: int) -> None:
    """Until it answers."""
    for _ in range(480):
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/sign-in/", timeout=2).close()
            return
        except OSError:
            time.sleep(0.25)
    raise SystemExit("Zester did not start.")


def print_yardstick() -> None:
    """How fast the machine is just now, with nothing of ours to do."""
    taken = []
    for _ in range(5):
        started = time.perf_counter()
        sum(k * k % 7 for k in range(1_000_000))
        taken.append(time.perf_counter() - started)
    print(f"the machine takes {statistics.median(taken) / YARDSTICK:.1f} times as long as when it is left alone")


def high(times: list[float]) -> float:
    """The 95th percentile."""
    return sorted(times)[max(0, -(-len(times) * 95 // 100) - 1)] if times else float("nan")
