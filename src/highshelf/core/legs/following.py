"""The packed archive goes up, and PHP on the host unpacks what has arrived of it while the rest is under way.

Rules:
1. The helper stands there before the archive begins: while that goes over, the transfer login is not free for anything else.
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
    # Asked before anything is there: this puts the helper there and learns its clock.
    _slice(job, job.helper().call)
    follower = Follower(job)
    follower.start()
    try:
        return carry_archive(job, name, also=follower.note)
    finally:
        follower.end()


class Follower(threading.Thread):
    """Asks the helper to unpack whenever enough has arrived; `end` waits for the answer that is under way."""

    def __init__(self, job: Job) -> None:
        super().__init__(name="follower", daemon=True)
        self._job, self._sent, self._asked = job, 0, 0
        self._over = False
        self._news = threading.Condition()

    def note(self, sent: int) -> None:
        with self._news:
            self._sent = sent
            self._news.notify()

    def end(self) -> None:
        with self._news:
            self._over = True
            self._news.notify()
        self.join()

    def run(self) -> None:
        while self._wait():
            self._asked = self._sent
            try:
                _slice(self._job, self._job.helper().ask)
            except HighShelfError:
                return
            time.sleep(STEP_SECONDS)

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
    """One request; what came of it is in the journal. `whole`: when it is the last one, all is hashed in the same breath."""
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
