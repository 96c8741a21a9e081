"""How long a level takes when thousands are checked, in one process, in several, on a cluster.

Run ``python benchmarks/bulk.py [LEVELS]``, 2,000 if not said. Every figure is a ratio to one process
of the same run, beside the milliseconds for a level. The cluster is a scheduler and its workers on
this machine: what it costs is what a cluster adds.
"""

import os
import sys
import tempfile
from pathlib import Path
from time import perf_counter

import ukemi
from families import designed


def write_levels(folder: Path, count: int) -> list[Path]:
    """Small levels as designers build them, of eight rooms each."""
    files = []
    for seed in range(count):
        files.append(folder / f"level-{seed:05}.yaml")
        ukemi.save(designed(8, seed), files[-1])
    return files


def main() -> None:
    """Print a row for each way of checking them."""
    from distributed import Client, LocalCluster

    count = int(sys.argv[1]) if len(sys.argv) > 1 else 2_000
    cores = os.cpu_count() or 1
    with tempfile.TemporaryDirectory() as scratch:
        files = write_levels(Path(scratch), count)
        print(f"{count:,} levels of 8 rooms, {cores} cores")
        print(f"{'':28}{'ms a level':>12}{'ratio':>8}")
        base = 0.0
        for jobs in dict.fromkeys((1, 2, cores)):
            began = perf_counter()
            ukemi.check_many(files, jobs=jobs)
            took = perf_counter() - began
            base = base or took
            name = f"{jobs} process{'es' if jobs > 1 else ''}"
            print(f"{name:28}{1000 * took / count:>12.2f}{took / base:>8.2f}")
        with LocalCluster(  # type: ignore[no-untyped-call]
            n_workers=cores, threads_per_worker=1, dashboard_address=None
        ) as cluster:
            client = Client(cluster)  # type: ignore[no-untyped-call]
            began = perf_counter()
            ukemi.check_many(files, client=client)
            took = perf_counter() - began
            name = f"a cluster of {cores} workers"
            print(f"{name:28}{1000 * took / count:>12.2f}{took / base:>8.2f}")


if __name__ == "__main__":
    main()
