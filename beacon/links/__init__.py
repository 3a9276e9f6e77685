"""Instruments on the line: which ones are registered, what they send, and how it reaches a page."""
