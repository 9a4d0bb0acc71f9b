"""Settings sheets: what may be set, what a sheet says, how two differ, whether it can be printed, stepped series."""
