"""Materials, spools, and what is known of them."""
