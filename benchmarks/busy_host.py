"""A slower machine to measure on: ``python benchmarks/busy_host.py SHARE``, until stopped, as root.

Takes that share of every core in slices of a few milliseconds, before everybody else, as the host of a virtual machine
does whose neighbours are busy. Beside it, for instance, ``load.py 25 60``: with 0.6 the rest is 0.4 of the speed.
"""

from __future__ import annotations

import multiprocessing
import os
import sys
import time

SLICE = 0.01
# Any real-time priority comes before all that shares the processor by niceness.
PRIORITY = 50


def take(core: int, share: float) -> None:
    """Keep a core busy for that share of every slice."""
    os.sched_setaffinity(0, {core})
    os.sched_setscheduler(0, os.SCHED_FIFO, os.sched_param(PRIORITY))
    begins = time.perf_counter()
    while True:
        while time.perf_counter() < begins + SLICE * share:
            pass
        begins = max(begins + SLICE, time.perf_counter())
        time.sleep(begins - time.perf_counter() if begins > time.perf_counter() else 0)


if __name__ == "__main__":
    if len(sys.argv) != 2 or not 0 < float(sys.argv[1]) < 0.95:
        raise SystemExit(__doc__)
    cores = [multiprocessing.Process(target=take, args=(core, float(sys.argv[1]))) for core in os.sched_getaffinity(0)]
    for each in cores:
        each.start()
    for each in cores:
        each.join()
