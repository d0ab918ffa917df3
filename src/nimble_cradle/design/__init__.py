"""What goes into the car, designed: parts to begin from."""
