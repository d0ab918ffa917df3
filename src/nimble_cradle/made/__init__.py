"""Every part that is made, once: its solid, its flat, its stock, its mass, what it is joined to."""
