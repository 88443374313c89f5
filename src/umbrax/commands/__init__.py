"""The command line: the same abilities without a browser, and without a database for everything that needs none."""
