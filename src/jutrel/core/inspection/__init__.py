"""The walk: its entries, their fold into a state, and the path round the machine."""
