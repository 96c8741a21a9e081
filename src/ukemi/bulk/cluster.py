"""Checking levels on a cluster, by Dask's distributed scheduler."""

from __future__ import annotations

import logging
import re
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from functools import partial
from queue import Empty, Queue
from socket import create_connection
from threading import Thread
from typing import Any

from ..language import load
from ..level import Level, LevelError, Problem
from ..spaces import Limits
from .checking import Asking, Checked, Given, check_file

#: How long a scheduler may take to answer, in seconds.
ANSWERS_WITHIN = 3.0


@contextmanager
def connected(address: str) -> Iterator[Any]:
    """A client of a scheduler.

    Args:
        address: Where it listens, such as ``tcp://mill:8786``.

    Raises:
        ConnectionError: It cannot be reached, or what it takes is not installed.
    """
    try:
        from distributed import Client
    except ImportError:
        message = "this needs more packages: pip install 'ukemi[cluster]'"
        raise ConnectionError(message) from None
    _knock(address)
    logger = logging.getLogger("distributed")
    level = logger.level
    logger.setLevel(logging.CRITICAL)  # what it says of a scheduler that is none says nothing new
    answer: Queue[Any] = Queue()

    def connect() -> None:
        try:
            answer.put(Client(address, timeout=ANSWERS_WITHIN))  # type: ignore[no-untyped-call]
        except Exception as error:  # whatever it makes of an answer that is nonsense
            answer.put(error)

    Thread(target=connect, daemon=True).start()
    try:
        client = answer.get(timeout=ANSWERS_WITHIN)
    except Empty:
        client = TimeoutError("no answer in time")
    finally:
        logger.setLevel(level)
    if isinstance(client, Exception):
        reason = " ".join(str(client).split())[:120] or "timeout"
        raise ConnectionError(f"no scheduler answers there ({reason})") from None
    with client:
        yield client


def _knock(address: str) -> None:
    """Fail at once if nothing listens at an address: the cluster's own library would keep trying for a long
    time.

    Raises:
        ConnectionError: Nothing does, or it is no address.
    """
    found = re.fullmatch(
        r"(?:[a-z]+://)?(\[[0-9a-fA-F:]+\]|[^:/\s]+):([0-9]{1,5})", address.strip()
    )
    if found is None or int(found[2]) > 65_535:
        raise ConnectionError("this is no address; write one such as tcp://localhost:8786")
    try:
        create_connection((found[1].strip("[]"), int(found[2])), timeout=2).close()
    except OSError as error:
        raise ConnectionError(f"no scheduler answers there ({error})") from None


def check_on_cluster(
    levels: Sequence[Given],
    limits: Limits,
    asking: Asking,
    client: Any,
    on_result: Callable[[Checked], None] | None = None,
) -> Iterator[Checked]:
    """Check levels on the workers of a cluster; if a worker dies, another one checks its levels.

    If a worker dies, another does its task again. A level over which workers die again and again
    is given up, and no other with it. Level files are read here: the workers need not have them.

    Args:
        levels: The levels, or the names of their files.
        limits: How far each search may go.
        asking: The options of each check.
        client: A ``distributed.Client``.
        on_result: Called with each result as soon as it is there: a slow level holds up no other.

    Yields:
        The reports and errors, in the order of the levels; each level once.
    """
    from distributed import as_completed

    work = partial(check_file, limits=replace(limits, deadline=None, watch=None), asking=asking)
    there: dict[int, Checked] = {}
    numbers: dict[Any, int] = {}
    futures = as_completed()  # type: ignore[no-untyped-call]
    following = 0

    def take(number: int, checked: Checked) -> None:
        there[number] = checked
        if on_result is not None:
            on_result(checked)

    try:
        for number, one in enumerate(levels):
            try:
                level = one if isinstance(one, Level) else load(one)
            except LevelError as error:
                take(number, error)
                continue
            # not pure: check a level again even if an equal one was checked before
            future = client.submit(work, level, pure=False)
            numbers[future] = number
            futures.add(future)  # type: ignore[no-untyped-call]
            for done in futures.next_batch(block=False):  # type: ignore[no-untyped-call]
                before = numbers.pop(done)
                take(before, _result(done, levels[before]))
        while following < len(levels):
            while following in there:
                yield there.pop(following)
                following += 1
            if numbers:
                done = next(futures)
                number = numbers.pop(done)
                take(number, _result(done, levels[number]))
    finally:
        client.cancel(list(numbers))


def _result(future: Any, given: Given) -> Checked:
    """The result of a level, or the error that the workers died when they checked it."""
    from distributed import KilledWorker

    try:
        checked: Checked = future.result()
    except KilledWorker:
        file = given.file if isinstance(given, Level) else given
        return LevelError([Problem("syntax", "the workers that checked this level died")], file)
    return checked
