"""Django's command line for Wary Beacon."""

import os
import sys

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "beacon.settings")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
