"""A plant set up from one spreadsheet: its systems with their plates, its references, and its people."""
