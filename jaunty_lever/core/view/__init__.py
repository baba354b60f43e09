"""What a page sees of a scene, as plain data: pages pack and send it, and compute nothing."""
