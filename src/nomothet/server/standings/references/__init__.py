"""Results of another review, taken into a review as they were: reference columns."""
