"""Generic controls: links, fields, popups, scrolling views, colours and fonts. Knows nothing of projects."""
