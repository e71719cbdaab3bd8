"""The service: /api/v1 over FastAPI. It translates; deciding and doing are elsewhere."""
