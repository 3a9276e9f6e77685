"""What `./run bench` measures."""
