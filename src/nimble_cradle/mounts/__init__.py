"""The powertrain on its mounts: mass, bushes as springs, load cases, sag and movement, natural
frequencies."""
