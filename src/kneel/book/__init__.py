"""The Book: students, their lessons, and what each swing showed, in a database that a URL names."""

from kneel.book.db.opening import Book, book_url, open_book

__all__ = ["Book", "book_url", "open_book"]
