"""The database where it is more than one: the first, which alone takes what is written, and a replica that follows it."""
