"""Belt and chain conveyor scales."""
