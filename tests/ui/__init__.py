"""Tests of the page: a package, so that its server ends with it."""
