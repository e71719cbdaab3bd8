"""An installation is let go: out of the books, its secrets out of the strongbox; nothing on the host is touched."""

from __future__ import annotations

from highshelf.core.errors import ConflictError
from highshelf.store.store import Store
from highshelf.store.tables import InstallationRow, JobRow


def forget(store: Store, number: str, who: str) -> int:
    """Forget it, all or nothing; who did it is recorded. The job that made it stays in the list, without what it knew.

    Returns:
        how many secrets have left the strongbox.

    Raises:
        NotFoundError. ConflictError: a job is at work on its account.
    """
    with store.together():
        row = store.get(InstallationRow, number, "installation")
        for job in store.jobs_under_way(row.account):
            raise ConflictError(
                f"the job {job.id} is at work on {row.account}",
                hint=f"`highshelf job follow {job.id}`, and forget the installation afterwards",
            )
        dropped = store.drop_secrets(f"installation/{number}/") + store.drop_values(row.job_id)
        store.change(JobRow, row.job_id, installation="")
        store.delete(InstallationRow, number)
        store.record(who, "forgotten", number, f"{row.application} at {row.address}: {dropped} secrets dropped")
    return dropped
