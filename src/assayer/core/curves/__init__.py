"""What can be read off a recorded curve: break, slack, straight part, yield. Used by several methods."""
