"""A server asked from elsewhere: the same abilities as the page's, for the command line, with a person's token."""
