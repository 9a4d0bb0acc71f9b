"""Labels to print."""
