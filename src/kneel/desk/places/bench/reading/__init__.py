"""The reading: findings as a chain, the chosen one argued, and the instructor's word."""
