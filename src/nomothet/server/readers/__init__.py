"""What readers of records ask and send, shown once somebody of the team has let it through."""
