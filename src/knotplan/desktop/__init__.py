"""The window: Qt 6 Widgets around the core. Widgets hold no plan state; the session does."""
