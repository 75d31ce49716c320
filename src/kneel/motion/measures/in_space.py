"""Which measures of one view are told by two cameras in their place, by the key of the number in space."""

TOLD_BY_TWO = {
    "pelvis_turn_3d": "pelvis_turn",
    "chest_turn_3d": "shoulder_turn",
    "separation_3d": "separation",
}
"""What one view tells by foreshortening alone."""
