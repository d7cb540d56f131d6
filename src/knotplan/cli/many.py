"""Many files at a time."""

import os
import signal
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeVar

from knotplan.cli.words import PLAN

T = TypeVar("T")
FEW = 8
"""so many plans are checked sooner one after another than in processes that have to begin first"""


def plans_in(folder: Path) -> list[Path]:
    """Every plan in a folder and those below it, by name; what is hidden is left out, links are not
    followed."""
    found = []
    for here, folders, files in os.walk(folder):
        folders[:] = sorted(name for name in folders if not name.startswith("."))
        found += [Path(here) / name for name in sorted(files) if name.endswith(PLAN)]
    return found


@contextmanager
def each(do: Callable[[Path], T], paths: Sequence[Path], jobs: int | None) -> Iterator[Iterator[T]]:
    """The results for all, in their order; in several processes where that is worth while."""
    jobs = jobs or os.cpu_count() or 1
    if jobs == 1 or len(paths) < FEW:
        yield map(do, paths)
        return
    from concurrent.futures import ProcessPoolExecutor
    from multiprocessing import active_children, get_context

    # forked: what is imported here need not be imported there
    pool: Any = ProcessPoolExecutor(
        min(jobs, len(paths)), get_context("fork"), initializer=signal.signal, initargs=INTERRUPTS
    )
    try:
        yield pool.map(do, paths, chunksize=max(1, min(16, len(paths) // (4 * jobs))))
    except BaseException:
        for child in active_children():
            child.kill()
        raise
    finally:
        pool.shutdown(cancel_futures=True)


INTERRUPTS = (signal.SIGINT, signal.SIG_IGN)
"""Ctrl+C goes to all processes of a terminal: the first one ends the others"""
