"""The demo scenario: read from the open files in demo/ and loaded through the commands that people use."""
