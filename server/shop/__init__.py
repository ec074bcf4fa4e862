"""The shop: work orders from planned to closed, the ledger of what was really done, and what each came to."""
