"""The window: Qt Widgets over the core. Views send intentions and show state."""
