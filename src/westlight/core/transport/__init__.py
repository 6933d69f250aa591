"""Light transport: Embree hierarchies, compiled path tracer, films and denoising."""
