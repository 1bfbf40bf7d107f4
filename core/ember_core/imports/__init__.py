"""What people bring: parts lists, measured discharges, texts typed into a grid, and the new gadget made of them."""
