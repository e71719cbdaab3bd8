"""The service's errors as the client raises them."""

from __future__ import annotations

from highshelf.schemas.models import Fault


class ServiceError(Exception):
    """What the service said no with: `fault` has code, message, hint, retryable, context; `status` is HTTP's."""

    def __init__(self, fault: Fault, status: int) -> None:
        super().__init__(f"{fault.message} ({fault.hint})" if fault.hint else fault.message)
        self.fault = fault
        self.status = status


class ServiceUnreachableError(ServiceError):
    """No service answers at the address."""

    def __init__(self, url: str, why: str) -> None:
        hint = "start it with `highshelf serve`, or name its address with HIGHSHELF_URL"
        super().__init__(
            Fault(
                code="service-unreachable",
                message=f"no High Shelf service answers at {url}: {why}",
                hint=hint,
                retryable=True,
            ),
            0,
        )
