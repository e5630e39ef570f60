"""At the bench: the circuit as it is wired, the list of its wires, what to measure, and what a wrong measurement tells."""
