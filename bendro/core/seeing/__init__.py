"""From what a device's camera, microphone and sensor noticed to readings with their doubt. The pictures and sounds themselves never come here."""
