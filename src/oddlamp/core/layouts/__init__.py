"""Where pixels stand, and the signs that are written on them."""
