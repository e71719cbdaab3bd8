"""The typed client: `Client` and `AsyncClient`, whose methods are the service's operations by the same names.

They are loaded when first asked for: what a program needs of the environment, or the help of a command, waits for none of it.
"""

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from highshelf.client.calls import Part
    from highshelf.client.clients import AsyncClient, Client
    from highshelf.client.errors import ServiceError, ServiceUnreachableError

__all__ = ["AsyncClient", "Client", "Part", "ServiceError", "ServiceUnreachableError"]
_ROOMS = {"Part": "calls", "AsyncClient": "clients", "Client": "clients"}


def __getattr__(name: str) -> Any:
    if name not in __all__:
        raise AttributeError(f"module {__name__} has no {name}")
    return getattr(import_module(f"{__name__}.{_ROOMS.get(name, 'errors')}"), name)
