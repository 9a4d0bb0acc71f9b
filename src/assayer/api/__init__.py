"""HTTP: thin routes over the services, problem+json errors, OpenAPI at /api/openapi.json."""
