"""Routes of plans."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter

from highshelf.schemas.models import PlanNew, PlanOut, PlanPreview
from highshelf.service.deps import In, Who
from highshelf.service.faults import RESPONSES, fault_out
from highshelf.service.queues import apart
from highshelf.store.tables import PlanRow

router = APIRouter(prefix="/plans", tags=["plans"], responses=RESPONSES)


def plan_out(row: PlanRow) -> PlanOut:
    kept = {n: row.body[n] for n in PlanOut.model_fields if n in row.body}
    return PlanOut(id=row.id, created_at=row.created_at, **kept)


def _wishes(new: PlanNew) -> dict[str, Any]:
    return new.model_dump(exclude={"account", "release"})


@router.post("", operation_id="plan_make", status_code=201)
@apart("hosts")
def make(new: PlanNew, room: In, who: Who) -> PlanOut:
    """Look at the account and say what an installation would do there, act by act. Nothing is changed."""
    row = room.planner.make_plan(new.account, new.release, **_wishes(new))
    return plan_out(row)


@router.post("/preview", operation_id="plan_preview")
@apart("hosts")
def preview(new: PlanNew, room: In, who: Who) -> PlanPreview:
    """The plan as it would be, kept nowhere: for somebody who is still choosing."""
    seen = room.planner.preview(new.account, new.release, **_wishes(new))
    fault = seen.fault
    return PlanPreview(
        address=seen.address,
        target=seen.target,
        plan=plan_out(PlanRow(id="", account="", release="", body=seen.plan.to_dict())) if seen.plan else None,
        fault=fault_out(fault) if fault else None,
    )


@router.get("/{plan_id}", operation_id="plan_show")
def show(plan_id: str, room: In, who: Who) -> PlanOut:
    return plan_out(room.store.get(PlanRow, plan_id, "plan"))
