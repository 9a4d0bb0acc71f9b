"""Tables in the dialects people write."""
