"""Materials ranked for a purpose."""
