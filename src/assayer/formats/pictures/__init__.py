"""Photographs in: turned upright, without what they tell of a place, with a small copy."""
