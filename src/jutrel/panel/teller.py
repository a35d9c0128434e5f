"""Tells the server what the readers of one or many machines heard: in one message for as many as it takes."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Iterator, Sequence

from jutrel.panel.bus_reader import Follower, Server

MOST_TOGETHER, MOST_BYTES = 50, 400_000
"""Machines and bytes in one message: the server takes 60, and 700 kB."""
AWAY = (0, 401, 429, 500, 502, 503, 504)
"""What says nothing of any one machine: it is tried again together."""


class Teller:
    """Tells of many machines in a thread, until it is stopped.

    One that the server refuses is told of by itself until it is taken: it holds up no other.
    """

    def __init__(self, followers: Sequence[Follower], server: Server) -> None:
        self.followers, self.server = followers, server
        self._pauses: dict[str, float] = {}
        """Of those that are told of by themselves: how long to wait after the next no [s]."""
        self._due: dict[str, float] = {}
        self._news, self._stop = threading.Event(), threading.Event()
        for follower in followers:
            follower.news = self._news
        self._thread = threading.Thread(target=self._run, daemon=True)

    def start(self) -> None:
        """Begin to read and to tell."""
        for follower in self.followers:
            follower.start()
        self._thread.start()

    def stop(self) -> None:
        """End, with what is known told once more if the server takes it."""
        for follower in self.followers:
            follower.stop()
        self._stop.set()
        self._news.set()
        self._thread.join(5)

    def _run(self) -> None:
        pause, due = self._every, 0.0
        while True:
            self._news.wait(max(0.0, due - time.monotonic()))
            self._news.clear()
            ended = self._stop.is_set()
            hurried = not ended and time.monotonic() < due
            pause = self.tell(pause, hurried)
            if ended:
                return
            if pause > self._every:
                self._stop.wait(pause / 4)  # news does not hurry a server that is away
            if not hurried or pause != self._every:
                due = time.monotonic() + pause

    @property
    def _every(self) -> float:
        return min(f.every for f in self.followers)

    def tell(self, pause: float, hurried: bool = False) -> float:
        """Tell what there is to tell; how long to wait then [s]. `hurried`: only of machines where something happened,
        before the next turn of them all."""
        waits = [self._every]
        for batch in self._batches(hurried):
            waits.append(self._together(batch, pause))
        for follower in self.followers:
            machine = follower.line.machine
            if machine in self._pauses and follower.clock() >= self._due[machine]:
                self._apart(follower)
        return max(waits) if max(waits) > self._every else min(waits)

    def _batches(self, hurried: bool) -> Iterator[dict[str, tuple[Follower, str]]]:
        """What is due, in messages that the server takes; each made when it is sent."""
        batch: dict[str, tuple[Follower, str]] = {}
        size = 0
        for follower in self.followers:
            if follower.line.machine in self._pauses or not (follower.has_news() if hurried else follower.is_due()):
                continue
            text = json.dumps(follower.message())
            if batch and (size + len(text) > MOST_BYTES or len(batch) == MOST_TOGETHER):
                yield batch
                batch, size = {}, 0
            batch[follower.line.machine] = follower, text
            size += len(text)
        if batch:
            yield batch

    def _together(self, batch: dict[str, tuple[Follower, str]], pause: float) -> float:
        body = ", ".join(f"{json.dumps(machine)}: {text}" for machine, (_, text) in batch.items())
        sent = next(iter(batch.values()))[0].clock()
        status, answer = self.server.request("PUT", "/api/panels", f'{{"machines": {{{body}}}}}')
        if status == 200 and not (isinstance(answer, dict) and batch.keys() <= answer.get("machines", {}).keys()):
            status = 0  # something between here and the server answers for it
        if status == 200:
            return min(f.taken(sent, answer["now"], answer["machines"][m]) for m, (f, _) in batch.items())
        if status in AWAY:
            return max(f.not_taken(status, answer, pause) for f, _ in batch.values())
        for follower, _ in batch.values():
            self._apart(follower)
        return self._every

    def _apart(self, follower: Follower) -> None:
        """Tell of one machine by itself; together with the others again once it is taken."""
        machine = follower.line.machine
        pause = follower.send(self._pauses.get(machine, follower.every))
        if follower.refused:
            self._pauses[machine], self._due[machine] = pause, follower.clock() + pause * follower.clock.speed
        else:
            self._pauses.pop(machine, None)
