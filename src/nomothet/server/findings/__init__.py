"""What a review says: findings of several kinds, made from its evidence and ranked by use to its question."""
