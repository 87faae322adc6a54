"""The matrix: what its cells show in each lens, and what the pane beside it holds."""
