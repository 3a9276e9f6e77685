"""What else could make a machine read so: suspects, and the looks that tell; knows no kind of machine and no method."""
