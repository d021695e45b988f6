"""The desktop application: Qt Widgets over everything below. The only package that knows Qt."""
