"""What every other room stands on: errors, quantities, paths, the guard, places in a TOML text, the ledger's chain."""
