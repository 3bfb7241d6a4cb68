"""Lines to devices: transports, who holds which line, and the stand-in that ships."""
