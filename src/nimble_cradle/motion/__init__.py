"""How a rigid body may move among others: seats, pushes, ways out. No word of cars in it."""
