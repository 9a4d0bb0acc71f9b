"""What materials are ranked for."""
