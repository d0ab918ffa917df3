"""The bay in 3-D: canvas, camera, and what draws each kind of thing."""
