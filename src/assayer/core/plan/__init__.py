"""Planning: orders, and what a plan needs."""
