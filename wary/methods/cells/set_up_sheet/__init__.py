"""Set-up sheet: what it is (`method`), and what it says of what was typed (`judging`)."""
