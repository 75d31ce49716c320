"""What a window is made of: fields, lists, panels, text and colours. Nothing here knows of golf."""
