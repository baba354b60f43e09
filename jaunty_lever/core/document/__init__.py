"""What the artist made, as immutable Pydantic models."""
