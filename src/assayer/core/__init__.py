"""Pure computation: no files, no HTTP, no database. Units are N, mm, MPa, s, °C, J throughout."""
