"""What is proven about a level without sets of positions: runs, the relaxed level, landmarks, lower bounds."""
