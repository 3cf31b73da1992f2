"""The model: an immutable sheet of items, what they look like, and the ticket that says what the job asks for."""
