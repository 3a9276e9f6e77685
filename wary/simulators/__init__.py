"""Stand-ins for machines: physics that is a function of a seed and of timed actions, and nothing else.

Any process can answer for a stand-in at any time, and a practice run can be replayed.
"""
