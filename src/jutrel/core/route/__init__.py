"""The way round: the ground, the rules of order, the shortest order, two people."""
