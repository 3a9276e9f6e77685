"""A million closed jobs: made in bulk, and measured."""
