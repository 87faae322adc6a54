"""What the editor concludes, held against the data, until it is signed and goes out."""
