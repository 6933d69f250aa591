"""The web door: routes and the picture's socket. No rule of the job lives here."""
