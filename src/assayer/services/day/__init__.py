"""What wants a hand or an eye today."""
