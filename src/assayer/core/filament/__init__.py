"""What is known and decided about a filament before it is printed (METHODS 11)."""
