"""The open document, its selection and undo history; jobs; settings."""
