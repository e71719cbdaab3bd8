"""A line of a given delay and rate between two network namespaces, without the kernel's own emulation.

    .venv/bin/python bench/link.py --rtt 40 --rate 20

Run as root; it makes the namespaces `hs-near` (10.78.0.1) and `hs-far` (10.78.0.2), prints `ready`, carries packets until
it gets SIGTERM, and takes the namespaces away. Each direction has a queue of its own: a packet leaves when those before it
have been sent at the line's rate, and arrives half the round trip later; what does not fit into the queue is lost.
"""

from __future__ import annotations

import argparse
import fcntl
import os
import select
import signal
import struct
import subprocess
import sys
import time
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

NEAR, FAR = ("hs-near", "10.78.0.1"), ("hs-far", "10.78.0.2")
# linux/if_tun.h: TUNSETIFF; IFF_TUN without the packet information header.
TUNSETIFF, IFF_TUN_PLAIN = 0x400454CA, 0x1001
QUEUE_BYTES = 256 * 1024


@dataclass
class Way:
    """One direction. `rate` in bits a second."""

    source: int
    sink: int
    delay_seconds: float
    rate: float
    free_at: float = 0.0
    waiting: deque[tuple[float, bytes]] = field(default_factory=deque)

    def take(self, now: float) -> None:
        try:
            packet = os.read(self.source, 2048)
        except BlockingIOError:
            return
        self.free_at = max(self.free_at, now)
        if (self.free_at - now) * self.rate / 8 > QUEUE_BYTES:
            return
        self.free_at += len(packet) * 8 / self.rate
        self.waiting.append((self.free_at + self.delay_seconds, packet))

    def give(self, now: float) -> None:
        while self.waiting and self.waiting[0][0] <= now:
            os.write(self.sink, self.waiting.popleft()[1])


def run(*command: str) -> None:
    subprocess.run(command, check=True, capture_output=True)


def end_of(namespace: str, address: str, peer: str, device: str) -> int:
    """One end of the line: a TUN device in a namespace; returns its file descriptor here."""
    run("ip", "netns", "add", namespace)
    end = os.open("/dev/net/tun", os.O_RDWR | os.O_NONBLOCK)
    fcntl.ioctl(end, TUNSETIFF, struct.pack("16sH22x", device.encode(), IFF_TUN_PLAIN))
    run("ip", "link", "set", device, "netns", namespace)
    run("ip", "-n", namespace, "addr", "add", address, "peer", peer, "dev", device)
    run("ip", "-n", namespace, "link", "set", device, "mtu", "1500", "up")
    run("ip", "-n", namespace, "link", "set", "lo", "up")
    return end


def carry(ways: list[Way]) -> None:
    while True:
        due = min((w.waiting[0][0] for w in ways if w.waiting), default=None)
        wait = None if due is None else max(0.0, due - time.monotonic())
        readable = select.select([w.source for w in ways], [], [], wait)[0]
        now = time.monotonic()
        for way in ways:
            if way.source in readable:
                way.take(now)
            way.give(time.monotonic())


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rtt", type=float, default=40, help="round trip, milliseconds")
    parser.add_argument("--rate", type=float, default=20, help="megabits a second, each way")
    options = parser.parse_args()
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    try:
        near, far = end_of(*NEAR, FAR[1], "hs-line-n"), end_of(*FAR, NEAR[1], "hs-line-f")
        half, rate = options.rtt / 2000, options.rate * 1e6
        print("ready", flush=True)
        carry([Way(near, far, half, rate), Way(far, near, half, rate)])
    finally:
        for namespace, _ in (NEAR, FAR):
            subprocess.run(["ip", "netns", "delete", namespace], capture_output=True)


@contextmanager
def link(rtt: float, rate: float) -> Iterator[None]:
    """The line as a process of its own, there as long as the block lasts."""
    command = [sys.executable, str(Path(__file__)), "--rtt", str(rtt), "--rate", str(rate)]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    try:
        assert process.stdout is not None and process.stdout.readline().strip() == "ready", "the line was not made"
        yield
    finally:
        process.terminate()
        process.wait()


if __name__ == "__main__":
    main()
