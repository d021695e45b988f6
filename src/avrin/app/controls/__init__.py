"""What any window has: links, fields, popups, scrolling views, colours and fonts. Knows nothing of projects."""
