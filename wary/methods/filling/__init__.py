"""Filling machines, dosers and graders: cut-offs, samples, doses, limits by weight."""
