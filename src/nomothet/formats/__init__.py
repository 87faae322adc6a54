"""What bench, server and terminal read and write alike: series blobs, delimited text, the words of a pass."""
