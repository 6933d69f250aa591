"""The one command: start, test, bench, render, doctor."""
