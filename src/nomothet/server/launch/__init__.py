"""Starting everything on one machine: a private database, the server and the benches of the demo."""
