"""What is captured at a rig, and what follows from it."""
