"""Our open format for what was measured of one specimen."""
