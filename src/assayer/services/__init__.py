"""One function a use case; the only place where core, store and formats meet."""
