"""The job itself: where an entry may stand, what entries come to, what one part of a visit hands to the next.

Pure Python, with nothing that a browser could not run. The server stores entries and what comes
back from here; it computes nothing of its own.
"""
