"""Which way a job is on, and which takes its place when the host refuses it."""

from __future__ import annotations

from highshelf.core.errors import (
    CancelledError,
    FingerprintError,
    HelperError,
    HelperRefusedError,
    HighShelfError,
    IdentityError,
    LoginRefusedError,
    PanelError,
    ShellError,
    SpaceError,
    TransferError,
    UnreachableError,
)
from highshelf.core.placing.ways import Way
from highshelf.core.plan import Plan
from highshelf.core.ports import Values

NOW, TRIED = "place.way", "place.tried"
# What another way may get round. A full disk or a refused login stands in every way's path.
MAY_BE_THE_WAY = (ShellError, HelperError, PanelError, IdentityError, TransferError)
NEVER_THE_WAY = (SpaceError, LoginRefusedError, FingerprintError, UnreachableError, CancelledError)


def way_now(plan: Plan, values: Values) -> Way:
    """The way that a job is on."""
    name = values.get(NOW)
    return next((way for way in plan.open_ways if way.name == name), plan.open_ways[0])


def next_way(
    plan: Plan, values: Values, fault: HighShelfError, *, also: tuple[type[HighShelfError], ...] = ()
) -> Way | None:
    """The way that takes the place of the one that failed, noted as the job's; None when the fault is not the way's or none is left.

    A host that runs no helper at all is not asked to by another way.
    """
    # What may go better next time is tried again as it is.
    if fault.retryable or not isinstance(fault, (*MAY_BE_THE_WAY, *also)) or isinstance(fault, NEVER_THE_WAY):
        return None
    tried = [*filter(None, (values.get(TRIED) or "").split(",")), way_now(plan, values).name]
    if isinstance(fault, HelperRefusedError):
        tried += [way.name for way in plan.open_ways if way.by_helper and way.name not in tried]
    left = [way for way in plan.open_ways if way.name not in tried]
    if not left:
        return None
    values.set(TRIED, ",".join(tried))
    values.set(NOW, left[0].name)
    return left[0]
