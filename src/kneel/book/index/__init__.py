"""The one way from a document to the rows of the Book, and by which program a row was made."""
