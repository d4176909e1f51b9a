"""The man page and the shell's completion, made from the commands and options as they are."""

import argparse
from collections.abc import Iterator

from notcher import __version__
from notcher.cli import COMMANDS
from notcher.terminal import parser


def commands() -> Iterator[tuple[str, argparse.ArgumentParser]]:
    """Yield each command for a terminal with its parser."""
    for action in parser()._actions:
        if isinstance(action, argparse._SubParsersAction):
            yield from action.choices.items()


def _options(of: argparse.ArgumentParser) -> list[argparse.Action]:
    return [action for action in of._actions if not isinstance(action, argparse._HelpAction)]


def man_page() -> str:
    """Return the manual page, in the man macros of roff."""
    lines = [
        f'.TH NOTCHER 1 "" "Notcher {__version__}" "User Commands"',
        ".ad l", ".nh",
        ".SH NAME", "notcher \\- hears a guitar solo, writes it as measured tablature, and teaches it",
        ".SH SYNOPSIS", ".B notcher", "[\\fIFILE\\fR | demo]", ".br", ".B notcher", "\\fICOMMAND\\fR ...",
        ".SH DESCRIPTION",
        "Without a command the window opens, with a recording or a .notch document in it; demo opens the demo.",
        ".SH COMMANDS",
    ]  # fmt: skip
    for name, of in commands():
        lines += [f".SS {name}", _escaped(COMMANDS.get(name, "").capitalize() + "."), ".PP", _usage(name, of)]
        for action in _options(of):
            lines += [".TP", _term(action), _escaped(action.help or "")]
    lines += [
        ".SH FILES", ".TP", "\\fI~/.local/share/notcher/ledger.sqlite\\fR", "Students, requests, lessons, practice.",
        ".SH EXIT STATUS", ".TP", "0", "done", ".TP", "1", "our fault", ".TP", "2", "wrong use or bad input",
        ".TP", "3", "a check that was asked for did not hold",
    ]  # fmt: skip
    return "\n".join(line for line in lines if line) + "\n"


def _usage(name: str, of: argparse.ArgumentParser) -> str:
    words = " ".join(of.format_usage().split())
    return f"\\fBnotcher {name}\\fR {_escaped(words.split(name, 1)[-1].strip())}"


def _term(action: argparse.Action) -> str:
    names = ", ".join(action.option_strings) or str(action.metavar or action.dest)
    value = "" if action.nargs == 0 or not action.option_strings else f" {action.metavar or action.dest.upper()}"
    if action.choices and action.option_strings:
        value = f" {'|'.join(map(str, action.choices))}"
    return f"\\fB{_escaped(names)}\\fR{_escaped(value)}"


def _escaped(words: str) -> str:
    words = words.replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{words}" if words.startswith((".", "'")) else words


def bash_completion() -> str:
    """Return what bash completes: commands, their options, the values of those that have some, else files."""
    lines = [
        "# completion of notcher for bash",
        "_notcher() {",
        '  local word="${COMP_WORDS[COMP_CWORD]}" before="${COMP_WORDS[COMP_CWORD-1]}"',
        '  if [ "$COMP_CWORD" -eq 1 ]; then',
        f'    COMPREPLY=($(compgen -W "{" ".join([*COMMANDS, "demo", "--help", "--version"])}" -- "$word") '
        '$(compgen -f -- "$word"))',
        "    return",
        "  fi",
        '  case "${COMP_WORDS[1]} $before" in',
    ]
    for name, of in commands():
        for action in _options(of):
            if action.choices and action.option_strings:
                choices = " ".join(map(str, action.choices))
                lines += [
                    f'    "{name} {option}") COMPREPLY=($(compgen -W "{choices}" -- "$word")); return ;;'
                    for option in action.option_strings
                ]
    lines += ["  esac", '  case "${COMP_WORDS[1]}" in']
    for name, of in commands():
        names = " ".join(option for action in _options(of) for option in action.option_strings)
        lines.append(f'    {name}) COMPREPLY=($(compgen -W "{names}" -- "$word") $(compgen -f -- "$word")) ;;')
    return "\n".join([*lines, "  esac", "}", "complete -o filenames -F _notcher notcher", ""])
