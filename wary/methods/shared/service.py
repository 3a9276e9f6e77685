"""What a visit changes in an instrument to get at its settings, and has to put back."""

from wary.methods.steps import Item

SERVICE_MODE = Item(
    "service", "The instrument is in service mode", "Service mode is on: leave it, and look that it weighs."
)
