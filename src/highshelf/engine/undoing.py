"""Plan the undo of a finished installation, and the removal of what was kept of one: look at it, say act by act what would be done."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from highshelf.core.errors import ConflictError, TargetError
from highshelf.core.jobs.undoing import planned_recheck, planned_removal, planned_restore, planned_undo
from highshelf.core.legs.standing import changes
from highshelf.core.legs.undoing import UNDONE
from highshelf.core.placing.standing import Since
from highshelf.core.plan import Plan
from highshelf.core.ports import CancelToken
from highshelf.engine.bench import Drivers, Workbench
from highshelf.engine.connections import Connections
from highshelf.store.store import Store, new_id
from highshelf.store.tables import InstallationRow, JobRow, PlanRow


class Undoer:
    """Every call opens a connection and closes it; nothing is changed."""

    def __init__(self, store: Store, drivers: Drivers, connections: Connections) -> None:
        self._store, self._drivers, self._connections = store, drivers, connections

    def plan_undo(self, number: str, *, changed_too: bool = False, keep: bool = False) -> PlanRow:
        """What undoing it would do.

        Args:
            changed_too: also when it has changed since its proof; its files and its database are kept then.
            keep: its files and its database are kept, whether it has changed or not.

        Raises:
            NotFoundError. ConflictError: it stands no more, another stands inside it, or a job is at work there. TargetError: it has
            changed since its proof. TransferError and its kin.
        """
        row = self._standing(number)
        made = self._plan_of(row)
        if (begun := self._begun(row)) is not None:
            return self._keep(self._undoing(row, made, keeps=begun.keeps_copy, told=begun.changed))
        changed = self._since(row)
        keeps = changed is None or bool(changed)
        told = "nobody wrote down how it stood when it was proven" if changed is None else changed.told
        if keeps and not (changed_too or keep):
            raise TargetError(
                f"{row.application} at {row.address} {_why(changed)}",
                hint="with `--changed-too` it is taken down all the same; its files and its database are kept until you remove them",
            )
        return self._keep(self._undoing(row, made, keeps=keeps or keep, told=told if keeps else ""))

    def _undoing(self, row: InstallationRow, made: Plan, *, keeps: bool, told: str) -> Plan:
        return replace(
            made,
            kind="undo",
            installation=row.id,
            undoes=row.job_id,
            keeps_copy=keeps,
            changed=told,
            acts=planned_undo(made, self._store.journal(row.job_id).newest_first(), keeps_copy=keeps),
            there=f"{row.application} {row.version}" + (f"; since its proof: {told}" if told else ", as it was proven"),
            touches=(row.target, *((row.database,) if row.database and not keeps else ())),
            **NOTHING,
        )

    def _begun(self, row: InstallationRow) -> Plan | None:
        """The plan of an undo that went part of the way: what stands now is not to be compared any more."""
        if not any(act.state == UNDONE for act in self._store.journal(row.job_id).newest_first()):
            return None
        for job in self._store.jobs_on(row.id, "undo"):
            return Plan.from_dict(self._store.get(PlanRow, job.plan_id, "plan").body)
        return None

    def plan_removal(self, number: str) -> PlanRow:
        """What removing the copy would do that was kept when it was undone.

        Raises:
            NotFoundError. ConflictError: it stands still, or nothing of it is kept.
        """
        row, kept_in = self._kept(number, taken="", stands=f"`highshelf installation undo {number}` takes it down")
        made = self._plan_of(row)
        acts = planned_removal(kept_in, row.database)
        return self._keep(
            replace(
                made,
                kind="remove",
                installation=row.id,
                undoes=row.job_id,
                acts=acts,
                there=f"the files kept in {kept_in}" + (f", the database {row.database}" if row.database else ""),
                touches=(kept_in, *((row.database,) if row.database else ())),
                **NOTHING,
            )
        )

    def plan_restore(self, number: str) -> PlanRow:
        """What bringing one back would do whose files and database were kept.

        Raises:
            NotFoundError. ConflictError: it stands still, nothing of it is kept, or a job is at work there.
        """
        row, kept_in = self._kept(number, taken="install it anew", stands="")
        self._idle(row)
        made = self._plan_of(row)
        switched = self._store.journal(row.job_id).facts("walk", "converse").get("switched", [])
        return self._keep(
            replace(
                made,
                kind="restore",
                installation=row.id,
                undoes=row.job_id,
                acts=planned_restore(row.target, kept_in, row.database, switched),
                there=f"the files kept in {kept_in}" + (f", the database {row.database}" if row.database else ""),
                touches=(kept_in, row.target),
                **NOTHING,
            )
        )

    def plan_recheck(self, number: str) -> PlanRow:
        """What looking at it once more would look at.

        Raises:
            NotFoundError. ConflictError: it stands no more.
        """
        row = self._store.get(InstallationRow, number, "installation")
        if row.facts.get("taken_back") or row.facts.get("replaced_by"):
            what = "was taken back" if row.facts.get("taken_back") else "was replaced"
            raise ConflictError(f"{row.application} at {row.address} {what}: nothing of it stands to be looked at")
        made = self._plan_of(row)
        return self._keep(
            replace(
                made,
                kind="recheck",
                installation=row.id,
                undoes=row.job_id,
                acts=planned_recheck(database=bool(row.database)),
                there=f"{row.application} {row.version}",
                touches=(),
                **NOTHING,
            )
        )

    def _kept(self, number: str, *, taken: str, stands: str) -> tuple[InstallationRow, str]:
        """An installation that was taken down and kept, and where; `taken` and `stands` are what to do where nothing is kept."""
        row = self._store.get(InstallationRow, number, "installation")
        back = row.facts.get("taken_back") or {}
        if not back.get("kept_in"):
            why = "it was taken back whole" if back else "it stands where it was put"
            raise ConflictError(
                f"nothing is kept of {row.application} at {row.address}: {why}", hint=taken if back else stands
            )
        return row, str(back["kept_in"])

    def _standing(self, number: str) -> InstallationRow:
        row = self._store.get(InstallationRow, number, "installation")
        if taken := row.facts.get("taken_back"):
            left = taken.get("left")
            if not left:
                raise ConflictError(
                    f"{row.application} at {row.address} was taken back already, by the job {taken['job']}",
                    hint=f"`highshelf installation remove {number}` removes what was kept of it"
                    if taken.get("kept_in")
                    else "",
                )
        if by := row.facts.get("replaced_by"):
            raise ConflictError(
                f"{row.application} at {row.address} was replaced by the installation {by}",
                hint=f"`highshelf installation undo {by}` brings it back",
            )
        self._idle(row)
        for other in self._store.standing(row.account):
            if other.id != row.id and other.target.startswith(row.target.rstrip("/") + "/"):
                raise ConflictError(
                    f"{other.application} stands inside it, in {other.target}",
                    hint=f"`highshelf installation undo {other.id}` first",
                )
        return row

    def _idle(self, row: InstallationRow) -> None:
        for job in self._store.jobs_under_way(row.account):
            raise ConflictError(
                f"the job {job.id} is at work on {row.account}",
                hint=f"`highshelf job follow {job.id}`, and try again afterwards",
            )

    def _plan_of(self, row: InstallationRow) -> Plan:
        job = self._store.get(JobRow, row.job_id, "job")
        return Plan.from_dict(self._store.get(PlanRow, job.plan_id, "plan").body)

    def _since(self, row: InstallationRow) -> Since | None:
        """What changed since the proof, None when nobody wrote down how it stood."""
        if self._store.evidence.stand(row.job_id) is None:
            return None
        with Workbench(self._store, self._drivers, self._connections, row.job_id, "survey", CancelToken()) as bench:
            return changes(bench)

    def _keep(self, plan: Plan) -> PlanRow:
        row = PlanRow(id=new_id(), account=plan.account, release=plan.release, body=plan.to_dict())
        self._store.add(row)
        return row


def _why(changed: Since | None) -> str:
    if changed is None:
        return "cannot be compared: nobody wrote down how it stood when it was proven"
    if changed.come or changed.gone or changed.changed:
        return f"has changed since it was proven: {changed.told}"
    return f"has the files that were proven; {changed.unseen}"


# What an install's plan has, and one that takes it back has not.
NOTHING: dict[str, Any] = {"asks": (), "warnings": (), "settings": {}, "licence": ""}
