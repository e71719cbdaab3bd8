"""The typed client: `Client` and `AsyncClient`, whose methods are the service's operations by the same names."""

from highshelf.client.calls import Part
from highshelf.client.clients import AsyncClient, Client
from highshelf.client.errors import ServiceError, ServiceUnreachableError

__all__ = ["AsyncClient", "Client", "Part", "ServiceError", "ServiceUnreachableError"]
