"""Work as a test wants it: too much of everything, refusals and faults."""

import json
import os
import time

from beacon.own_process import Refused


def work(piece: bytes) -> bytes:
    """Does what it is told by name; anything else comes back as it is."""
    match piece:
        case b"memory":
            return bytes(500_000_000)
        case b"processor":
            while True:
                pass
        case b"sleep":
            time.sleep(60)
        case b"a moment":
            time.sleep(0.3)
        case b"end":
            os._exit(3)
        case b"refuse":
            raise Refused("This is none. Choose another.")
        case b"fault":
            raise ZeroDivisionError
        case b"print":
            print("what a library says")
            return b"printed"
        case b"environment":
            return json.dumps(dict(os.environ)).encode()
        case b"id":
            return str(os.getpid()).encode()
    return piece
