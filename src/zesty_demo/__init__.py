"""The material of the demo: spoken lines, and the home recordings and music made from them."""
