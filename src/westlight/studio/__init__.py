"""The studio: the job's own rules over projects, looks, sources, history and stills."""
