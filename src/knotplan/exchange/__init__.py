"""Files, formats, and other ways in and out of core values. No interface here."""
