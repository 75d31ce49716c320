"""Reviews that speak: recorded on the Bench, edited here, written as a film."""
