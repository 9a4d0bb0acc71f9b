"""Numbers with units, and entries that are hardly meant as typed."""
