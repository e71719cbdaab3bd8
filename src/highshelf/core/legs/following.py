"""The packed archive goes up, and PHP on the host unpacks what has arrived of it while the rest is under way.

Rules:
1. The helper is put there over another connection while the archive begins: over its own nothing else goes meanwhile, or all that does
   waits. On an account that allows one only, all is unpacked afterwards.
2. What is unpacked is whole members, each believed by its own checksum; where it stands is in the journal.
3. Following saves time and is needed for nothing: when it fails, all that is left is unpacked afterwards, and fails or not there.
"""

from __future__ import annotations

import threading
import time
from typing import Any

from highshelf.core.errors import HelperError, HighShelfError
from highshelf.core.legs.carrying import carry_archive
from highshelf.core.legs.job import Done, Job, More, Result
from highshelf.core.legs.trees import tree_inside

# A question costs a round trip and a process there: not for every block.
STEP_BYTES, STEP_SECONDS = 512 << 10, 0.3


def carry_followed(job: Job, name: str) -> Result:
    """The archive goes up as a file, unpacked as far as it came."""
    if job.files().capabilities.parallel:
        # Behind the first blocks of the archive each of its few bytes would wait a second.
        job.helper().put_there("untar")
    follower = Follower(job)
    follower.start()
    try:
        return carry_archive(job, name, also=follower.note, settled=follower.settled)
    finally:
        follower.end()


class Follower(threading.Thread):
    """Asks the helper to unpack whenever enough has arrived; `end` waits for the answer that is under way."""

    def __init__(self, job: Job) -> None:
        super().__init__(name="follower", daemon=True)
        self._job, self._sent, self._asked = job, 0, 0
        self._over = False
        self._news = threading.Condition()
        self._stands = threading.Event()
        self._fault: HelperError | None = None

    def note(self, sent: int) -> None:
        """So much is there. Raises what putting the helper there failed with: what else goes over would be in vain."""
        if self._fault is not None:
            raise self._fault
        with self._news:
            self._sent = sent
            self._news.notify()

    def settled(self) -> None:
        """Wait until the helper stands there, or will not: until then it takes a connection of its own."""
        self._stands.wait()

    def end(self) -> None:
        with self._news:
            self._over = True
            self._news.notify()
        self.join()

    def run(self) -> None:
        try:
            stands = self._put_there()
        finally:
            self._stands.set()
        while stands and self._wait():
            self._asked = self._sent
            try:
                # If all is there by now, it is compared in the same breath.
                _slice(self._job, self._job.helper().ask, whole=True)
            except HighShelfError:
                return
            time.sleep(STEP_SECONDS)

    def _put_there(self) -> bool:
        """The helper comes to stand there, and its clock is known, while the archive is under way already."""
        job = self._job
        try:
            lanes = job.lanes(2)
            if len(lanes) < 2:
                # This login is not free before the archive is over.
                return False
            with job.helper().over(lanes[1]):
                _slice(job, job.helper().call)
        except HelperError as fault:
            self._fault = fault
            return False
        except HighShelfError:
            # The other connection is in trouble; this one may not be.
            return False
        return True

    def _wait(self) -> bool:
        """Until enough more has arrived; False at the end, or when the job is to stop."""
        with self._news:
            while not self._over and self._sent - self._asked < STEP_BYTES:
                self._news.wait()
            return not self._over and not self._job.cancel.cancelled


def unpack_rest(job: Job) -> Result:
    """What was not unpacked while it came. Raises HelperError when the archive there is not what was sent."""
    before = _kept(job)
    facts = before if before.get("done") else _slice(job, job.helper().call, whole=True)
    count = len(job.contents.files)
    if facts["done"]:
        return Done(f"unpacked through the helper ({facts['files']} files)", {"files": facts["files"]})
    if facts["next"] == before.get("next"):
        why = "it is damaged" if facts["damaged"] else "it ends too early"
        raise HelperError(f"PHP on the host cannot unpack the archive there: {why}")
    return More(f"unpacked {facts['files']} of {count} files", {"files": facts["files"], "of_files": count})


def _kept(job: Job) -> dict[str, Any]:
    return job.journal.facts("place", "unpack")


def _slice(job: Job, ask: Any, *, whole: bool = False) -> dict[str, Any]:
    """One request; what came of it is in the journal. `whole`: when nothing is left behind it, all is hashed in the same breath."""
    before = _kept(job)
    answer = ask("untar", {"next": before.get("next") or {}, "inside": tree_inside(job), "all": whole})
    facts = {
        "next": answer["next"],
        "done": answer["done"],
        "damaged": answer["damaged"],
        "files": before.get("files", 0) + answer["files"],
        "sum": answer.get("all", ""),
        "at": time.time(),
    }
    job.journal.keep("place", "unpack", facts)
    return facts
