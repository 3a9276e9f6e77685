"""Methods of the tests alone."""
