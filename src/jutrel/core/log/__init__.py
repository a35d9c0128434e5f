"""The log of a machine: entries, kinds, their strict codec, the chain."""
