"""The window. It shows what the other rooms know and passes on what people do; no arithmetic lives here."""
