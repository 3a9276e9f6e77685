"""Scales that ride on vehicles: axle groups, lifting arms, bin lifts, load carts."""
