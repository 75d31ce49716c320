"""Whether two things differ: which errors they share, one number on two sides, families of them, what it
means for a plan, over lessons, and for a set of swings. The judge knows nothing of it.
"""
