"""A photograph's array becomes measurements: pure, with numpy and OpenCV."""
