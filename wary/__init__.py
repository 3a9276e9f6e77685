"""The judgement of Wary Beacon: quantities, evidence, the call, and one file per method.

Pure Python. It keeps no state, opens no file but what its command line is given, and knows
nothing of a database or a screen.
"""
