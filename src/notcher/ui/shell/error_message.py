"""What went wrong, in a sentence for the window; our own faults are noted in the log as well."""

from notcher.core.errors import NotcherError


def error_message(problem: Exception) -> str:
    """Return the sentence."""
    if isinstance(problem, NotcherError):
        return str(problem)
    import logging  # not needed before the first paint

    text = f"{type(problem).__name__}: {problem}"
    logging.getLogger("notcher").error("%s", text, exc_info=problem)
    return f"Something went wrong inside Notcher ({text}). Nothing was changed."
