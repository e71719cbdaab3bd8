"""How the bytes go over: the archive as a file, a stream into the shell's tar, or file by file. All go on where they broke."""

from __future__ import annotations

import hashlib
import posixpath
import random
import shlex
import threading
import time
import zipfile
from collections.abc import Callable, Iterator
from typing import Any, BinaryIO

from highshelf.core.errors import (
    CancelledError,
    IdentityError,
    LineDroppedError,
    ShellError,
)
from highshelf.core.legs.job import Done, Job, More, Result
from highshelf.core.legs.slicing import Crew, Front, join, kept_slices, may_slice
from highshelf.core.legs.trees import (
    HASH_OF_ALL,
    command_fault,
    holding_folder,
    run_or_fail,
    take_file_away,
    unpacked_tree,
)
from highshelf.core.placing.crew import do_all, list_tree, spread
from highshelf.core.placing.pace import Pace, Rate
from highshelf.core.placing.slices import Shares
from highshelf.core.placing.ways import UNPACKERS
from highshelf.core.ports import HostFiles, Order, Progress
from highshelf.core.release.contents import Member
from highshelf.core.sizes import size_text

# What may be missing in the middle of a file whose upload was cut off: blocks in flight, none of them confirmed.
UNSURE_BYTES = 64 * 32_768
TELL_SECONDS = 0.5
KEEP_SECONDS = 1.0
PART = "archive.part"
# So much is looked at byte by byte where no hash can be had from the host.
# A file up to this size is held in memory while it goes over, one a lane.
WHOLE_BYTES = 1 << 20
SAMPLE_FILES, SAMPLE_BYTES = 24, 512 << 10
RATE_BYTES = 1_000_000
LANES = 48


class Teller:
    """Bytes done, how fast and how long it will take yet: told a few times a second. `begun` were there before."""

    def __init__(self, job: Job, size: int, begun: int = 0, more: str = "") -> None:
        self._job, self._size, self._begun, self._more = job, size, begun, more
        self._told, self._done, self.started = 0.0, begun, time.monotonic()
        self._rate = Rate(begun)

    def __call__(self, done: int, **figures: int) -> None:
        now, self._done = time.monotonic(), done
        if now - self._told <= TELL_SECONDS and done != self._size:
            return
        self._told = now
        self._rate.note(done)
        rate = self._rate.bytes_per_second()
        text = f"{done / 1e6:.1f} of {self._size / 1e6:.1f} MB{self._more}"
        figures |= {"bytes": done, "of": self._size, "rate": round(rate)}
        if rate and done < self._size:
            figures["left_seconds"] = round((self._size - done) / rate)
            text += f", {size_text(round(rate))}/s, {_time_text(figures['left_seconds'])} left"
        self._job.say(text, **figures)

    def ended(self) -> str:
        """How long it took, in words; what the line did is kept for later plans."""
        seconds, sent = time.monotonic() - self.started, self._done - self._begun
        # Less says more of delays than of the rate; and a limit of ours is not the line's.
        if sent >= RATE_BYTES and seconds > 0 and not self._job.plan.pace_bytes:
            self._job.learn_rate(sent / seconds)
        return f"{seconds:.1f} s"


def _time_text(seconds: int) -> str:
    return f"{seconds} s" if seconds < 90 else f"{seconds // 60}:{seconds % 60:02d} min"


def carry_archive(
    job: Job, name: str, *, also: Progress = lambda _: None, settled: Callable[[], None] = lambda: None
) -> Result:
    """The archive goes up as a file; what is there of it already is gone on with.

    Args:
        also: told how far its front is, too.
        settled: waits until nobody else uses the account's further connections.
    """
    files = job.files()
    path = posixpath.join(holding_folder(job), name)
    with job.pace().reader(job.archive(job.way.archive)) as source:
        size = source.seek(0, 2)
        there = files.stat(path) if _begun(job) else None
        # Many blocks in flight on one connection may arrive out of order; over FTP what is there is there.
        unsure = UNSURE_BYTES if files.capabilities.parallel else 0
        offset = max(0, min(there.size_bytes, size) - unsure) if there is not None else 0
        if there is not None and offset:
            job.say(f"the archive is there up to {there.size_bytes} bytes; going on from {offset}", offset=offset)
        try:
            if may_slice(job):
                return _carry_sliced(job, path, source, Shares(size, offset, kept_slices(job)), also, settled)
            teller = Teller(job, size, offset)

            def told(done: int) -> None:
                teller(done)
                also(done)

            files.upload(path, source, offset=offset, progress=told, cancel=job.cancel)
        except LineDroppedError as fault:
            if offset and fault.context.get("held") == path:
                job.say("what is there of the archive is held by a session that hangs there; it goes over anew")
                take_file_away(job, path)
            raise
    return Done(f"archive of {size_text(size)} brought over in {teller.ended()}", {"bytes": size})


def _carry_sliced(
    job: Job, path: str, source: BinaryIO, shares: Shares, also: Progress, settled: Callable[[], None]
) -> Result:
    """On one connection, and on more where that is seen to win."""
    offset = min(shares.at, shares.end)
    size, front = shares.size, offset
    teller = Teller(job, size, offset + size - shares.end)
    crew = Crew(job, path, shares, lambda sliced: teller(front + sliced), settled)

    def told(done: int) -> None:
        nonlocal front
        front = done
        crew.note(done)
        teller(done + crew.sliced)
        also(done)

    crew.start()
    try:
        job.files().upload(path, Front(source, shares), offset=offset, progress=told, cancel=job.cancel)  # type: ignore[arg-type]
        crew.finish()
    finally:
        crew.stop()
    if shares.done:
        join(job, size)
    over = f" over {crew.connections} connections" if crew.connections > 1 else ""
    return Done(f"archive of {size_text(size)} brought over{over} in {teller.ended()}", {"bytes": size})


def carry_stream(job: Job) -> Result:
    """The packed files go straight into the shell's tar; a copy of what came stays there, so that a break loses nothing."""
    shell, form = job.shell(), job.way.archive
    if shell is None:
        raise ShellError("this account has no shell")
    folder, tree = shlex.quote(holding_folder(job)), shlex.quote(posixpath.join("tree", job.contents.wrapper))
    with job.archive(form) as source:
        size = source.seek(0, 2)
        offset = _held(job, source)
        if offset:
            job.say(f"the first {offset} bytes are there already; going on behind them", offset=offset)
        unpack = f"{UNPACKERS[form]} -dc | tar xmf - --no-same-owner -C {tree}"
        # Compared in the same breath; where that fails, the act that is there for it says why.
        compare = f"{{ cd {tree} && {HASH_OF_ALL} || true; }}"
        # The copy is made closed to others; the tree's modes are not to be touched by that.
        copy = f"(umask 077; : {'>>' if offset else '>'} {PART})"
        command = (
            f"cd {folder} && {copy} && rm -rf tree && mkdir -p {tree} && "
            f"{{ cat {PART}; tee -a {PART}; }} | {unpack} && {compare}"
        )
        teller = Teller(job, size, offset)
        source.seek(offset)
        ran = shell.stream(
            command, job.pace().reader(source), progress=lambda done: teller(offset + done), cancel=job.cancel
        )
    if ran.status != 0:
        raise command_fault("unpacking as it came failed", ran)
    told = f"{size_text(size)} ({form}) brought over and unpacked in {teller.ended()}"
    seen = (ran.output.split() or [""])[0]
    return Done(told, {"bytes": size - offset, "size": size, "sum": seen, "at": time.time()})


def _begun(job: Job) -> bool:
    """Whether something may be there already. Written down before the first byte goes: without it there is nothing."""
    if job.journal.facts("place", "carry").get("begun"):
        return True
    job.journal.keep("place", "carry", {"begun": True})
    return False


def _held(job: Job, source: BinaryIO) -> int:
    """How many of the stream's first bytes lie on the host already; what is not the stream's goes."""
    path = posixpath.join(holding_folder(job), PART)
    if not _begun(job):
        return 0
    there = job.files().stat(path)
    if there is not None and there.size_bytes:
        seen = run_or_fail(job, f"sha256sum < {shlex.quote(path)}").split()[0]
        if seen == _hash_of(source, there.size_bytes):
            return there.size_bytes
        job.files().write(path, b"", 0o600)
    return 0


def _hash_of(source: BinaryIO, size: int) -> str:
    source.seek(0)
    digest, left = hashlib.sha256(), size
    while left and (block := source.read(min(left, 1 << 18))):
        digest.update(block)
        left -= len(block)
    return digest.hexdigest() if not left else ""


def carry_files(job: Job) -> Result:
    """Every file by itself, many at once; which of them are over is in the journal, so that a break repeats few."""
    facts = job.journal.facts("place", "carry")
    over = bytearray.fromhex(facts["over"]) if facts.get("over") else bytearray((len(job.contents.files) + 7) // 8)
    base = unpacked_tree(job)
    lanes = job.lanes(LANES)
    if not facts.get("folders"):
        _make_folders(job, lanes, base)
        facts = {**facts, "folders": True}
        job.journal.keep("place", "carry", facts)
    begun = sum(b.bit_count() for b in over)
    try:
        seconds = _send_all(job, lanes, base, over, facts)
    except (LineDroppedError, CancelledError) as fault:
        job.journal.keep("place", "carry", {**facts, "over": over.hex()})
        count = sum(b.bit_count() for b in over)
        if count == begun or isinstance(fault, CancelledError):
            raise
        # As long as files come over, a line may break as often as it likes.
        return More(f"{fault.message}; {count} of {len(job.contents.files)} files are over, going on")
    count = len(job.contents.files)
    told = f"{count} files brought over one by one in {seconds:.1f} s, {len({id(x) for x in lanes})} connections"
    return Done(told, {"files": count, "folders": True})


def _make_folders(job: Job, lanes: list[HostFiles], base: str) -> None:
    """All folders, those above first; what is there already is fine."""
    parts = [p for p in job.contents.wrapper.split("/") if p]
    above = posixpath.join(holding_folder(job), "tree")
    wanted = {posixpath.join(above, *parts[: depth + 1]) for depth in range(len(parts))}
    wanted |= {posixpath.join(base, folder) for folder in _folders_of(job)}
    paths = sorted(wanted, key=lambda path: (path.count("/"), path))
    said = do_all(lanes, [Order("make_folder", path) for path in paths], job.cancel)
    for path, fault in zip(paths, said, strict=True):
        there = lanes[0].stat(path) if fault is not None else None
        if fault is not None and (there is None or there.kind != "folder"):
            raise fault


def _send_all(job: Job, lanes: list[HostFiles], base: str, over: bytearray, facts: dict[str, Any]) -> float:
    files, lock = job.contents.files, threading.Lock()
    size = job.contents.unpacked_bytes
    done = sum(f.size_bytes for i, f in enumerate(files) if over[i // 8] >> i % 8 & 1)
    count = sum(b.bit_count() for b in over)
    teller, pace = Teller(job, size, done, f" in {len(files)} single files"), job.pace()
    kept = time.monotonic()
    with job.archive("zip") as source, zipfile.ZipFile(source) as archive:
        prefix = job.contents.wrapper + "/" if job.contents.wrapper else ""

        def send(lane: HostFiles, item: tuple[int, Member]) -> None:
            nonlocal count, done, kept
            number, member = item
            # The archive is read by one at a time; sending is what takes long.
            path = posixpath.join(base, member.path)
            if member.size_bytes > WHOLE_BYTES:
                _send_large(job, archive, prefix + member.path, lane, path, pace)
            else:
                with lock:
                    content = archive.read(prefix + member.path)
                pace.take(len(content))
                lane.write(path, content)
            with lock:
                over[number // 8] |= 1 << number % 8
                done, count = done + member.size_bytes, count + 1
                teller(done, files=count, of_files=len(files))
                if time.monotonic() - kept > KEEP_SECONDS:
                    kept = time.monotonic()
                    job.journal.keep("place", "carry", {**facts, "over": over.hex()})

        # Many in flight on one connection fill the line anyhow.
        own_lines = not lanes[0].capabilities.parallel
        spread(lanes, _waiting(files, over), send, job.cancel, both_ends=own_lines, repeats=True)
    teller.ended()
    return time.monotonic() - teller.started


def _send_large(job: Job, archive: zipfile.ZipFile, name: str, lane: HostFiles, path: str, pace: Pace) -> None:
    """A file too large to be held whole goes over in blocks."""
    with archive.open(name) as member:
        lane.upload(path, pace.reader(member), cancel=job.cancel)  # type: ignore[arg-type]


def _waiting(files: tuple[Member, ...], over: bytearray) -> Iterator[tuple[int, Member]]:
    """What is not over yet, the largest first, so that no long file is left for the end."""
    order = sorted(range(len(files)), key=lambda i: -files[i].size_bytes)
    return ((i, files[i]) for i in order if not over[i // 8] >> i % 8 & 1)


def compare_by_listing(job: Job, *, hashed: int = 0) -> Result:
    """Every path and size by listings, and modes put right; where nobody on the host can hash, a sample read back.

    Args:
        hashed: how many files somebody there has hashed already.

    Raises:
        IdentityError: something is missing, extra, of another size, or reads back as something else.
    """
    base, lanes = unpacked_tree(job), job.lanes(LANES)
    wanted = {f.path: f for f in job.contents.files}
    for at_once in (True, False):
        seen, folders = list_tree(lanes, base, job.cancel, at_once=at_once, expected=_folders_of(job))
        wrong = [p for p in wanted if p not in seen or seen[p][0] != wanted[p].size_bytes]
        extra = sorted(set(seen) - set(wanted))
        if not wrong and not extra:
            break
        # Servers write deep listings in many ways: before one is believed to say no, every folder is asked for by itself.
    if wrong or extra:
        raise IdentityError(
            f"the files on the host are not those of the release: {len(wrong)} missing or of another size "
            f"({', '.join(wrong[:3])}), {len(extra)} extra ({', '.join(extra[:3])})",
            hint="run the job again; the holding folder was cleared",
        )
    odd = [(p, 0o644) for p, (_, mode) in seen.items() if mode not in (None, 0o644)]
    odd += [(p, 0o755) for p, mode in folders.items() if mode not in (None, 0o755)]
    orders = [Order("chmod", posixpath.join(base, p).rstrip("/"), mode) for p, mode in sorted(odd)]
    for fault in filter(None, do_all(lanes, orders, job.cancel)):
        raise fault
    if hashed:
        told = f"{hashed} files are identical with the release (SHA-256), dotfiles included; folders 755, files 644"
        return Done(told, {"files": hashed})
    looked = _read_back(job, lanes, base)
    return Done(
        f"{len(wanted)} files have the release's paths and sizes, dotfiles included; {looked} of them were read back "
        "and are identical (no hashes can be had from this host); folders 755, files 644",
        {"files": len(wanted), "read_back": looked},
    )


def _folders_of(job: Job) -> set[str]:
    """Every folder of the release, the root itself left out."""
    found: set[str] = set()
    for member in job.contents.files:
        folder = posixpath.dirname(member.path)
        while folder and folder not in found:
            found.add(folder)
            folder = posixpath.dirname(folder)
    return found


def _read_back(job: Job, lanes: list[HostFiles], base: str) -> int:
    """Dotfiles and front pages, then files at random, byte by byte. Raises IdentityError."""
    files = [f for f in job.contents.files if f.size_bytes <= SAMPLE_BYTES // 4]
    first = [f for f in files if posixpath.basename(f.path).startswith(".") or "index." in f.path]
    dice = random.Random(job.id)
    rest = dice.sample(files, min(len(files), SAMPLE_FILES))
    chosen: dict[str, Member] = {}
    size = 0
    for member in [*first[: SAMPLE_FILES // 2], *rest]:
        if size + member.size_bytes <= SAMPLE_BYTES and len(chosen) < SAMPLE_FILES:
            chosen[member.path] = member
            size += member.size_bytes

    def look(lane: HostFiles, member: Member) -> None:
        content = lane.read(posixpath.join(base, member.path), member.size_bytes + 1)
        if hashlib.sha256(content).hexdigest() != member.sha256:
            raise IdentityError(f"{member.path} reads back as something else than the release holds")

    spread(lanes, list(chosen.values()), look, job.cancel, repeats=True)
    return len(chosen)
