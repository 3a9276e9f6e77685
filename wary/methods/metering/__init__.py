"""Metered feeders, drills and spreaders: catches, constants, densities, rates."""
