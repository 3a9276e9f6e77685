"""Rules that every method shares: evidence, the call, slips, planning, drift. They know no method."""
