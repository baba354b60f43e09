"""Pages and the fragments they are made of."""
