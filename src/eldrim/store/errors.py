"""What a store call can refuse."""


class StoreError(Exception):
    """Base of all refusals; the message is meant for people."""


class NotFoundError(StoreError):
    """There is no such thing."""


class ConflictError(StoreError):
    """Somebody else changed it meanwhile; nothing was overwritten."""


class ThrottledError(StoreError):
    """Too many failed sign-ins; try again later."""
