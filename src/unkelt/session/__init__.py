"""What is open, what was done to it, where one looks: the state of the window, without the window."""
