"""What keeps a service answering: a figure that is slow to look up, and a port that sends what it has."""

from __future__ import annotations

import asyncio
import socket
import threading

from highshelf.service.queues import Figure, Queue
from highshelf.service.running import Listening, open_port


def test_a_figure_that_is_slow_to_look_up_is_told_as_it_was_last() -> None:
    async def asked() -> list[int]:
        slow, now = threading.Event(), 1

        def look() -> int:
            if now > 1:
                slow.wait(30)
            return now

        figure = Figure(look, Queue(1, 10), patience_seconds=0.01)
        told = [await figure.now()]
        now = 2
        told += [await figure.now(), await figure.now()]
        slow.set()
        while told[-1] == 1:
            told.append(await figure.now())
        return told

    told = asyncio.run(asked())
    assert told[:3] == [1, 1, 1]
    assert told[-1] == 2


def test_the_second_part_of_an_answer_waits_for_no_receipt_of_the_first() -> None:
    with open_port(Listening("127.0.0.1", 0)) as line:
        line.listen(1)
        with socket.create_connection(line.getsockname()), line.accept()[0] as taken:
            assert taken.getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY)
