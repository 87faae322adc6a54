"""What is to be measured, asked or looked at again, and what that waits for."""
