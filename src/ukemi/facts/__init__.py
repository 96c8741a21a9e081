"""Prove facts without sets of positions: finishing runs, the relaxed level, landmarks, lower bounds."""
