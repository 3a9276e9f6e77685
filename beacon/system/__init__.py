"""The page of one system: its record, its dates, what is open and what was done on it, put together from the other rooms."""
