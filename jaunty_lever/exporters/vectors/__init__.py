"""What goes out as shapes that move by keys, instead of pictures."""
