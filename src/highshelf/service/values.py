"""The catalogue of values that an operator may set in a plan."""

from __future__ import annotations

from fastapi import APIRouter

from highshelf.core.values import CATALOGUE
from highshelf.schemas.models import Listing, ValueOut
from highshelf.service.deps import Who
from highshelf.service.faults import RESPONSES

router = APIRouter(prefix="/values", tags=["plans"], responses={401: RESPONSES[401]})


@router.get("", operation_id="value_list")
def listing(who: Who) -> Listing[ValueOut]:
    """Values that may be given with a plan; what is left out gets its default."""
    items = [
        ValueOut(name=v.name, kind=v.kind, about=v.about, secret=v.secret) for v in CATALOGUE.values() if v.operator
    ]
    return Listing(items=items, total=len(items))
