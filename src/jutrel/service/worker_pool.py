"""Work that would hold everybody up, done in processes beside the server: pictures, paper, long plans.

A process that takes too long or too much memory dies alone; the request that asked for it is told.
"""

from __future__ import annotations

import asyncio
import multiprocessing
import os
import resource
import select
import threading
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from typing import Any, ParamSpec, TypeVar

from jutrel.core.wording import say
from jutrel.service.problem import Problem

PROCESSES = 2
SECONDS = 6.0
MOST_WAITING = 24
MEMORY = 900_000_000
"""Address space [B] of a process: a picture or a record needs a third of it."""
PRELOADED = ["jutrel.service.worker_loaded"]
P = ParamSpec("P")
T = TypeVar("T")


class TooMuch(Problem):
    """It would have taken more memory than one request may have; trying again does not help."""

    status = 413

    def __init__(self) -> None:
        super().__init__("too-much", say("This takes more memory than the server gives one request."))


class Slow(Problem):
    """It took too long this time: on a busy machine that passes, so that nobody takes it for a final no."""

    status = 503

    def __init__(self) -> None:
        super().__init__("too-slow", say("This took too long just now: it is tried again."), wait_s=10)


class Full(Problem):
    """So much is being made already that this would wait too long."""

    status = 503

    def __init__(self) -> None:
        super().__init__("busy", say("Much is being made just now: try again in a moment."), wait_s=3)


def _bound(server: int) -> None:
    threading.Thread(target=_ends_with, args=(server,), daemon=True).start()
    os.nice(4)  # whoever waits for an answer goes first; what is made here is not starved either
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))


def _ends_with(server: int) -> None:
    """End this process when the server's has ended, however that was: else it would wait for good."""
    with suppress(ProcessLookupError):
        select.select([os.pidfd_open(server)], [], [])
    os._exit(0)


def _nothing() -> None:
    """What a process is asked first, so that it is there when somebody needs it."""


class _Desk:
    """A process of its own, made when first asked for: whoever has to be ended takes nobody else's work along."""

    def __init__(self) -> None:
        self._pool: ProcessPoolExecutor | None = None

    def submit(self, work: Callable[..., T], *args: Any, **kwargs: Any) -> Future[T]:
        """Begin some work; one that waits here already goes first."""
        if self._pool is None:
            context = multiprocessing.get_context("forkserver")
            context.set_forkserver_preload(PRELOADED)
            self._pool = ProcessPoolExecutor(1, mp_context=context, initializer=_bound, initargs=(os.getpid(),))
        return self._pool.submit(work, *args, **kwargs)

    def drop(self, patience_s: float = 0.0) -> None:
        """End the process, with whatever it is at after that time; the next work gets a new one."""
        pool, self._pool = self._pool, None
        if pool is None:
            return
        processes = list((pool._processes or {}).values())
        pool.shutdown(wait=False, cancel_futures=True)
        for process in processes:
            process.join(patience_s)
            if process.is_alive():
                process.kill()


class Aside:
    """Processes beside the server; each request has one to itself as long as it lasts."""

    def __init__(self, processes: int = PROCESSES, seconds: float = SECONDS) -> None:
        self.seconds = seconds
        self._desks = [_Desk() for _ in range(processes)]
        self._free = list(self._desks)
        self._turn = asyncio.Semaphore(processes)
        self._waiting = 0

    async def warm(self) -> None:
        """Have the processes there before they are needed."""
        for desk in self._desks:
            await asyncio.wrap_future(desk.submit(_nothing))

    async def run(self, work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """What `work` gives, worked out beside the server; both it and its arguments are sent there.

        Raises
        ------
        TooMuch
            If it takes too much memory.
        Slow
            If it takes too long, or its process dies twice.
        Full
            If too many wait already.
        """
        if self._waiting >= MOST_WAITING:
            raise Full
        self._waiting += 1
        try:
            async with self._turn:
                desk = self._free.pop()
                try:
                    return await self._run(desk, work, *args, **kwargs)
                finally:
                    self._free.append(desk)
        finally:
            self._waiting -= 1

    async def _run(self, desk: _Desk, work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        for attempt in (1, 2):
            try:
                return await asyncio.wait_for(
                    asyncio.wrap_future(desk.submit(work, *args, **kwargs)), self.seconds
                )  # fmt: skip
            except (TimeoutError, asyncio.CancelledError) as error:
                # Whoever went away leaves nothing behind that the next one would have to wait for.
                desk.drop()
                if isinstance(error, TimeoutError):
                    raise Slow from None
                raise
            except MemoryError:
                raise TooMuch from None
            except BrokenProcessPool:
                # It may have died of something else since it was used last: once more.
                desk.drop()
                if attempt == 2:
                    raise Slow from None
        raise Slow

    def close(self) -> None:
        """End all processes: those that do nothing by themselves, others after a moment."""
        for desk in self._desks:
            desk.drop(patience_s=1.0)
