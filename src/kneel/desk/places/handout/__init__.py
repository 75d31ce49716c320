"""The place where the page that goes home is looked at before it goes."""
