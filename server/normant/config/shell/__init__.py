"""The outer shell: everything that a request meets before a thread of Django's is given to it."""
