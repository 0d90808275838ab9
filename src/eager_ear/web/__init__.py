"""FastAPI over the service: routes, schemas, errors."""
