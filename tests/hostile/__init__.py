"""Strangers and bad luck: odd settings, odd calls, damaged files, processes killed.

Short in the suite; `./westlight fuzz` runs the same for longer, by the factor ``WESTLIGHT_FUZZ``.
"""

import os

#: How many times as much is tried as in the suite.
FACTOR = int(os.environ.get("WESTLIGHT_FUZZ", "1"))
