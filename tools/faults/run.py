"""``python -m tools.faults.run``: sixty faults, chosen by a seed, each of which the tests of its module must see.

``tests/faults.toml`` says which tests belong to a module, how many faults it gets, and which faults change nothing that
can be seen, each with its reason. What no test sees ends the run with 1.
"""

import argparse
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
import tomllib
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

from tools.faults.sites import Fault, faults_of

ROOT = Path(__file__).parents[2]
PACKAGE = ROOT / "src" / "morphax"
_PATIENCE = 240
"""Seconds after which a test run counts as one that noticed: the fault made it endless."""


@dataclass(frozen=True)
class Put:
    """A fault in a module, and the tests that are to see it."""

    module: str
    fault: Fault
    tests: tuple[str, ...]
    source: str

    @property
    def was(self) -> str:
        return self.source.splitlines()[self.fault.line - 1].strip()

    @property
    def becomes(self) -> str:
        return self.fault.put_into(self.source).splitlines()[self.fault.line - 1].strip()

    def __str__(self) -> str:
        return f"{self.module}:{self.fault.line} {self.fault.kind}\n    {self.was}\n    {self.becomes}"


def chosen(seed: int, told: dict) -> list[Put]:
    """The faults of a seed: so many of each module, less those that are known to change nothing."""
    equal = {(e["module"], e["was"], e["becomes"]) for e in told.get("equal", ())}
    out: list[Put] = []
    for module, wish in told["modules"].items():
        source, kinds = (PACKAGE / module).read_text(), wish.get("kinds")
        puts = [Put(module, f, tuple(wish["tests"]), source) for f in faults_of(source) if not kinds or f.kind in kinds]
        some = random.Random(f"{seed} {module}").sample(puts, min(wish.get("faults", 2), len(puts)))
        out += [p for p in some if (module, p.was, p.becomes) not in equal]
    return out


def passes(tests: tuple[str, ...], home: Path) -> bool:
    """Whether tests pass with the program that lies in a folder."""
    own = dict(os.environ, PYTHONPATH=f"{home}{os.pathsep}{ROOT}", PYTHONDONTWRITEBYTECODE="1")
    command = [sys.executable, "-m", "pytest", "-x", "-q", "--no-header", *tests]
    try:
        done = subprocess.run(command, cwd=ROOT, env=own, capture_output=True, timeout=_PATIENCE, check=False)
    except subprocess.TimeoutExpired:
        return False
    if done.returncode > 2:
        raise SystemExit(f"the tests {' '.join(tests)} can't be run:\n{done.stdout.decode()[-2000:]}")
    return done.returncode == 0


def is_seen(put: Put, home: Path) -> bool:
    """Whether the tests fail with the fault in a copy of the program."""
    file = home / "morphax" / put.module
    file.write_text(put.fault.put_into(put.source))
    try:
        return not passes(put.tests, home)
    finally:
        file.write_text(put.source)


def run(puts: list[Put], workers: int) -> list[Put]:
    """The faults that no test saw. Ends with a sentence where tests fail without any."""
    with tempfile.TemporaryDirectory() as place:
        homes: Queue[Path] = Queue()
        for k in range(workers):
            shutil.copytree(PACKAGE, Path(place) / str(k) / "morphax")
            homes.put(Path(place) / str(k))

        def one(put: Put) -> bool:
            home, began = homes.get(), time.monotonic()
            seen = is_seen(put, home)
            homes.put(home)
            print(f"{'seen' if seen else 'NOT SEEN'} in {time.monotonic() - began:.0f} s: {put}", flush=True)
            return seen

        def fails(tests: tuple[str, ...]) -> bool:
            home = homes.get()
            failed = not passes(tests, home)
            homes.put(home)
            return failed

        with ThreadPoolExecutor(workers) as pool:
            sets = sorted({p.tests for p in puts})
            bad = [" ".join(t) for t, failed in zip(sets, pool.map(fails, sets), strict=True) if failed]
            if bad:
                raise SystemExit(f"these tests fail without a fault: {'; '.join(bad)}")
            seen = list(pool.map(one, puts))
    return [p for p, s in zip(puts, seen, strict=True) if not s]


def main() -> int:
    told = tomllib.loads((ROOT / "tests" / "faults.toml").read_text())
    wish = argparse.ArgumentParser(description=__doc__)
    wish.add_argument("--seed", type=int, default=told["seed"])
    wish.add_argument("--only", default="", help="modules whose path contains this")
    asked = wish.parse_args()
    puts = [p for p in chosen(asked.seed, told) if asked.only in p.module]
    missed = run(puts, 2)
    print(f"{len(puts) - len(missed)} of {len(puts)} faults were seen (seed {asked.seed}).")
    return 1 if missed else 0


if __name__ == "__main__":
    sys.exit(main())
