"""Parts of one's own, and the shape of a test whether it is ours or theirs."""
