"""Plans, the board, evidence and findings."""
