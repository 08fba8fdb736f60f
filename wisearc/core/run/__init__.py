"""A recorded run: settings, materials, measurements, observations, quality and verification."""
