"""Answer each question once, for levels of every size, from the cheapest evidence that settles it."""
