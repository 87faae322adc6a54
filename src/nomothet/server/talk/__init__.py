"""What people say to one another about a review and the things in it."""
