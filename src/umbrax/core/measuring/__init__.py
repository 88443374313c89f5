"""What can be told of a picture in numbers: scopes, what makes one place like another, the grain of a patch."""
