"""What changes an order, one verb a file. Whatever happened in the shop goes through ``shop.ledger``."""
