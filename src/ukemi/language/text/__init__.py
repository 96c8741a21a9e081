"""The text of a level file: parsing it with places, laying it out, and editing it in place."""
