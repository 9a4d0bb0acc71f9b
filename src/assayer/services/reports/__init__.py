"""What several areas together say of one thing."""
