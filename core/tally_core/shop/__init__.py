"""The shop: what an order is expected to take, what came to each operation, what it really took, and why that differs (W1 to W6)."""
