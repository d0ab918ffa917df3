"""Whether it holds: bolts, plates, tubes, welds, pins, bushes, and the crossmember."""
