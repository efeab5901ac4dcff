"""Documents for print: plain data in, PDF out. Fonts ship with them; nothing is fetched."""
