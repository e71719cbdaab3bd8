"""The service: /api/v1 over FastAPI. It translates; deciding and doing are elsewhere."""

from highshelf.schemas.building import build_all

# Before the routes are put together, which look at their models.
build_all()
