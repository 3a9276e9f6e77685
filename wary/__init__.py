"""The judgement of Wary Beacon: quantities, evidence, the call, and one file per method.

Pure Python. It keeps no state, opens no file but what its command line is given, and knows
nothing of a database or a screen.
"""

VERSION = "0.14.0"
"""The version of the whole product, as CHANGELOG.md has it; it stands on the page and in the files that are written."""
WRITTEN_BY = f"Wary Beacon {VERSION}"
