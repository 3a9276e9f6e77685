"""What was done: the log of closed jobs, the history of a channel, and both as tables to take away."""
