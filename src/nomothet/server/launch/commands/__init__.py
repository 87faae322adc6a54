"""The commands of `nomothet-server`."""
