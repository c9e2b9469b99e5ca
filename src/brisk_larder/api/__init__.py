"""The HTTP interface: one router per room, errors as problem details, the built front end."""
