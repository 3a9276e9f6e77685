"""Kinds of machine of the tests alone."""
