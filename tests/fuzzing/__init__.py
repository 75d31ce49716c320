"""Files and option lines mutated in structure, and a judge who says whether Kneel bore them."""
