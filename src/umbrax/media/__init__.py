from . import threads as threads  # before anything is read or written
