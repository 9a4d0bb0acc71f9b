"""Statistics of groups and differences (METHODS 13)."""
