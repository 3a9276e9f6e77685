"""Django's command line for Wary Beacon."""

import gc
import os
import sys

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "beacon.settings")
    # What is imported stays: to look through it again and again for what could be let go of takes a sixth of the start.
    gc.set_threshold(50_000)
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
