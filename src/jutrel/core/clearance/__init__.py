"""May it start, may it work: a proof from the machine's log, or what is missing and the first step out of it."""
