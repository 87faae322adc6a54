"""Sets of tests that a team keeps by name, with weights: one ratio over all of them, and a review made of them."""
