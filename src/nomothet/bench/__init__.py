"""The bench: the program on a system that runs workloads and reports to the server."""
