"""Results of all reviews beside one another (method 26)."""
