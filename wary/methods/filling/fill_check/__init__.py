"""Watching by samples: what it is (`method`), and what it says of what was typed (`judging`)."""
