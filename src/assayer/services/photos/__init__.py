"""Photographs of anything: taken in, shown, captioned, measured by a mark, taken back."""
