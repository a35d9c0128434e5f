"""From findings to grades and a verdict, by a rulebook that is data and explains itself."""
