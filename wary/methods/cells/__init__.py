"""Load cells, hoppers, tanks, platforms, wheel pads, bench channels."""
